import type { Line } from '../../api/client';
import { plainly } from '../../ui/Met';
import { Sorted } from '../../ui/Sorted';
import { t } from '../../words/words';
import { placeAt } from './order';

interface Props {
  order: Line[];
  owner: number;
  at: number;
  disabled: boolean;
  onOrder: (owner: number, arrivals: number[]) => void;
}

/** The pictures of one owner in their order, which can be dragged into another. */
export function Sortable({ order, owner, at, disabled, onOrder }: Props) {
  return (
    <Sorted
      disabled={disabled}
      onOrder={(ids) => onOrder(owner, ids.map(Number))}
      pictures={order.map((l) => {
        const place = placeAt(l, owner);
        const label = t('pair.thumb', { path: plainly(l.path), place });
        return { id: l.id, sha: l.sha ?? '', label, place, current: l.id === at };
      })}
    />
  );
}
