import { Link, useNavigate } from '@tanstack/react-router';
import { useEffect } from 'react';
import { useDeliveries } from '../../api/pages';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';

/** The Pair station without a delivery in hand: the newest that is ready is taken up. */
export function PairPick() {
  useTitle('pair');
  const deliveries = useDeliveries().all;
  const navigate = useNavigate();
  const ready = deliveries?.find((d) => d.state === 'ready' && d.pictures > 0);
  useEffect(() => {
    if (ready)
      void navigate({
        to: '/pair/$delivery',
        params: { delivery: String(ready.id) },
        search: { rule: ready.rule },
        replace: true,
      });
  }, [ready, navigate]);
  if (!deliveries || ready) return <div className="hush">{t('pair.pick')}</div>;
  return (
    <Bench
      rail={<h2 className="railhead">{t('station.pair')}</h2>}
      glass={null}
      board={
        <Empty title={t('pair.none')}>
          <p>{t('pair.none_what')}</p>
          <p>
            <Link to="/gather">{t('pair.none_go')}</Link>
          </p>
        </Empty>
      }
    />
  );
}
