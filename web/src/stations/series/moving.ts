import type { Series } from '../../api/photos';

/** The border behind a series on its way: so many pictures to the left, which go to the next series, or to the right, which come from it. */
export interface Moving {
  at: number;
  by: number;
}

/** The pictures that change their series. */
export function moves(all: Series[], { at, by }: Moving): number[] {
  if (by < 0) return all[at]?.pictures.slice(by) ?? [];
  return all[at + 1]?.pictures.slice(0, by) ?? [];
}

/** How far the border behind a series can go: not into one that has no owner, as nobody would have the pictures then. */
export function reach(series: Series, next: Series | undefined): { least: number; most: number } {
  return {
    least: next?.owner ? -series.pictures.length : 0,
    most: next && series.owner ? next.pictures.length : 0,
  };
}
