import { t } from '../words/words';

/** A file with its path in the folder it was dropped with. */
export interface Dropped {
  file: File;
  path: string;
}

/** Reads a drop: files, and folders to their depths, in the order of their paths. */
export async function readDrop(transfer: DataTransfer): Promise<Dropped[]> {
  const roots = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  const found: Dropped[] = [];
  await Promise.all(roots.map((root) => readEntry(root, found)));
  return found.sort((a, b) => (a.path < b.path ? -1 : 1));
}

async function readEntry(entry: FileSystemEntry, found: Dropped[]): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
    found.push({ file, path: entry.fullPath.replace(/^\//, '') });
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  // A reader gives a folder in pieces, and an empty piece at its end.
  for (;;) {
    const piece = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (piece.length === 0) return;
    for (const child of piece) await readEntry(child, found);
  }
}

export const readChosen = (files: FileList): Dropped[] =>
  [...files].map((file) => ({ file, path: file.webkitRelativePath || file.name }));

/** What a delivery is called that nobody has named: its one file, its folder, or how many files. */
export function titleOf(dropped: Dropped[]): string {
  const first = dropped[0];
  if (!first) return t('sending.no_files');
  if (dropped.length === 1) return first.file.name.replace(/\.(zip|tar|tar\.\w+|tgz|txz)$/i, '');
  const folder = first.path.split('/')[0] ?? '';
  if (first.path.includes('/') && dropped.every((d) => d.path.startsWith(`${folder}/`))) return folder;
  return t('sending.files_title', { n: dropped.length });
}
