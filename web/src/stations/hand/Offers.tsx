import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from '@tanstack/react-router';
import { useMemo } from 'react';
import { askHand, offersQuery, type PicturedOwner } from '../../api/hand';
import { useAskOnce } from '../../api/queries';
import { Strip } from '../../ui/Thumb';
import { t } from '../../words/words';

/** Offers categories without a picture the main picture of the product that stands first in them. */
export function Offers({ shown, mayEdit }: { shown: PicturedOwner[]; mayEdit: boolean }) {
  const offers = useQuery(offersQuery).data;
  const navigate = useNavigate();
  const here = useMemo(() => {
    const ids = new Set(shown.map((o) => o.id));
    return (offers ?? []).filter((o) => ids.has(o.category));
  }, [offers, shown]);
  const take = useAskOnce(
    () =>
      askHand.offered(
        here.map((o) => o.category),
        t('hand.offers_title'),
      ),
    [],
  );
  if (here.length === 0) return null;
  return (
    <div className="notice row">
      <span className="grow">{t('hand.offers', { count: here.length })}</span>
      <Strip shas={here.map((o) => o.sha)} size={36} most={5} />
      {mayEdit && (
        <Button
          size="compact-sm"
          loading={take.isPending}
          onClick={() =>
            take.mutate(undefined, {
              onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }),
            })
          }
        >
          {t('hand.offers_take')}
        </Button>
      )}
    </div>
  );
}
