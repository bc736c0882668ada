import { FilesButton } from './FilesButton';
import { useBring } from './useBring';

/** Sends a table, and the pictures and archives that are chosen with it. */
export function SendTable({ name }: { name: string }) {
  const { bring, pending } = useBring();
  return <FilesButton name={name} testid="sheet" loading={pending} onFiles={bring} />;
}
