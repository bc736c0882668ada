import { useQueryClient } from '@tanstack/react-query';
import type { Delivery } from '../../api/client';
import { askDelivery } from '../../api/deliveries';
import { useAskOnce } from '../../api/queries';
import { t } from '../../words/words';

const KINDS = ['all', 'products', 'categories'] as const;
type Kind = (typeof KINDS)[number];

/** What kinds of owners a delivery is for, so that equal numbers do not meet across kinds. */
export function Against({ delivery, mayEdit }: { delivery: Delivery; mayEdit: boolean }) {
  const queries = useQueryClient();
  const set = useAskOnce((pairsWith: Kind) => askDelivery.describe(delivery.id, { pairsWith }), [['deliveries']]);
  const now: Kind = delivery.pairsWith || 'all';
  return (
    <label className="against">
      {t('against.name')}{' '}
      <select
        value={now}
        disabled={!mayEdit || set.isPending}
        onChange={(e) =>
          set.mutate(e.currentTarget.value as Kind, {
            onSuccess: () => void queries.invalidateQueries({ queryKey: ['pairing', delivery.id] }),
          })
        }
      >
        {KINDS.map((k) => (
          <option key={k} value={k}>
            {t(`against.${k}`)}
          </option>
        ))}
      </select>
    </label>
  );
}
