export { bytes, count, when } from '../words/words';

export const baseName = (path: string) => path.slice(path.lastIndexOf('/') + 1);
