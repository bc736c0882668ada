import { pictureURL } from '../api/client';

/** Opens the picture as it came, in a tab of its own. */
export const openPicture = (sha: string | undefined) =>
  sha && window.open(pictureURL(sha, 'original'), '_blank', 'noreferrer');
