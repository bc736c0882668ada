import { type ReactNode, useMemo } from 'react';
import { type ColumnSettings, useSettings } from './settings';
import { useStable } from './useStable';

/** A column of a board. */
export interface Column<T> {
  id: string;
  name: string;
  /** Its width as a grid has it, where the person has not set another. */
  width: string;
  cell: (line: T) => ReactNode;
  className?: string;
  /** Figures stand at the right. */
  figures?: boolean;
  /** Not shown where the board is narrow. */
  wide?: boolean;
  /** Neither hidden nor resized. */
  fixed?: boolean;
  /** The name is not shown, only told. */
  quiet?: boolean;
  /** How many columns a line's cell takes. */
  span?: (line: T) => number;
  /** What the lines can be sorted by. */
  by?: (line: T) => string | number;
  /** What stands in a file of the lines, where that is not what they are sorted by. A column with neither is not in the file. */
  text?: (line: T) => string | number | undefined;
}

export interface Columns<T> {
  all: Column<T>[];
  shown: Column<T>[];
  template: string;
  /** Of those that are shown, as a grid has them. */
  widths: string[];
  set: (patch: ColumnSettings) => void;
  hidden: (id: string) => boolean;
}

/** A board's columns as a person set them. */
export function useColumns<T>(board: string, all: Column<T>[], narrow: boolean): Columns<T> {
  const [settings, set] = useSettings();
  const own = settings.columns?.[board];
  const keep = useStable((patch: ColumnSettings) => set({ columns: { [board]: patch } }));
  return useMemo(() => {
    const hidden = (id: string) => own?.hidden?.[id] === true;
    const shown = all.filter((c) => !hidden(c.id) && !(narrow && c.wide));
    const width = (c: Column<T>) => {
      const wanted = narrow ? undefined : own?.widths?.[c.id];
      return wanted ? `${wanted}px` : c.width;
    };
    const widths = shown.map(width);
    return { all, shown, template: widths.join(' '), widths, set: keep, hidden };
  }, [all, own, narrow, keep]);
}

const compare = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' }).compare;

/** Lines in the order of a column, downwards where a minus stands before it; as they are where it is none. */
export function inOrder<T>(lines: T[], columns: Column<T>[], sorted: string | undefined): T[] {
  const down = sorted?.startsWith('-');
  const by = columns.find((c) => c.id === sorted?.replace('-', ''))?.by;
  if (!by) return lines;
  const keyed = lines.map((line) => ({ line, key: by(line) }));
  keyed.sort((a, b) => {
    const order =
      typeof a.key === 'number' && typeof b.key === 'number' ? a.key - b.key : compare(String(a.key), String(b.key));
    return down ? -order : order;
  });
  return keyed.map((k) => k.line);
}
