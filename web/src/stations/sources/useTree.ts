import { useQueries } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { type Entry, folderQuery } from '../../api/sources';

/** A line of the tree: a file or a folder, and how deep it lies. */
export interface TreeLine extends Entry {
  id: number;
  depth: number;
  open: boolean;
}

/** The folders of a drive as a tree: what is in those that are open. */
export function useTree(source: number) {
  const [open, setOpen] = useState<string[]>(['']);
  const folders = useQueries({
    queries: open.map((path) => folderQuery(source, path)),
    combine: (all) => ({
      of: new Map(open.map((path, i) => [path, all[i]?.data])),
      error: all.find((a) => a.error)?.error,
      loading: all.some((a) => a.isLoading),
    }),
  });
  const lines = useMemo(() => {
    const out: TreeLine[] = [];
    const put = (folder: string, depth: number) => {
      for (const e of folders.of.get(folder) ?? []) {
        const path = e.folder ? `${e.path}/` : e.path;
        const isOpen = open.includes(path);
        out.push({ ...e, path, id: out.length + 1, depth, open: isOpen });
        if (e.folder && isOpen) put(path, depth + 1);
      }
    };
    put('', 0);
    return out;
  }, [folders.of, open]);
  const turn = (path: string, to?: boolean) =>
    setOpen((now) => {
      const is = now.includes(path);
      if ((to ?? !is) === is) return now;
      return is ? now.filter((p) => p !== path) : [...now, path];
    });
  return { lines, turn, error: folders.error, loading: folders.loading };
}
