import type { ReactNode } from 'react';
import type { Change, Touched } from '../api/client';
import { named, t } from '../words/words';

/** How the screens show changes of one subject. */
export interface Renderer {
  /** Whether the thing is no owner, so that no customer sees it as such. */
  elsewhere?: boolean;
  /** The thing's name on a line: a code and what it is called. */
  name: (change: Change, touched: Touched) => { code: string; label: string };
  /** A few words or small pictures of one side of a change. */
  Side: (props: { change: Change; side: 'before' | 'after'; touched: Touched }) => ReactNode;
  /** One side of a change in words, as it stands in a file. */
  text: (change: Change, side: 'before' | 'after', touched: Touched) => string;
  /** One change large. */
  Glass: (props: { change: Change; touched: Touched }) => ReactNode;
}

/** The fields of one side of a change; none where the thing is not there. */
export function fields<T>(change: Change, side: 'before' | 'after'): T | undefined {
  return (change[side] as T | null) ?? undefined;
}

/** How an owner that the change is of is called, as far as the catalogue has it. */
export function ownerName(id: number, touched: Touched): { code: string; label: string } {
  const owner = touched.owners.get(id);
  return owner
    ? { code: owner.sku || named(`owner.${owner.kind}`), label: owner.label }
    : { code: t('subject.owner', { id }), label: '' };
}
