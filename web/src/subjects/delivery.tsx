import type { Change } from '../api/client';
import { t } from '../words/words';
import { fields, type Renderer } from './subject';

/** One side of a change in words. */
function words(change: Change, side: 'before' | 'after'): string {
  const of = fields<{ removed: boolean }>(change, side);
  return t(!of || of.removed ? 'subject.delivery_removed' : 'subject.delivery_there');
}

/** A delivery: whether it is removed. */
export const deliveryRenderer: Renderer = {
  elsewhere: true,
  name: (change) => ({ code: t('subject.delivery', { id: change.id }), label: '' }),
  text: words,
  Side: ({ change, side }) => <span className={side === 'before' ? 'soft' : undefined}>{words(change, side)}</span>,
  Glass: () => <p>{t('subject.delivery_meaning')}</p>,
};
