import { Link, useNavigate } from '@tanstack/react-router';
import { useEffect } from 'react';
import { useDeliveries } from '../../api/pages';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';

/** The Pair station without a delivery in hand: the newest that is ready is taken up. */
export function PairPick() {
  const deliveries = useDeliveries().all;
  const navigate = useNavigate();
  const ready = deliveries?.find((d) => d.state === 'ready' && d.pictures > 0);
  useEffect(() => {
    if (ready) void navigate({ to: '/pair/$delivery', params: { delivery: String(ready.id) }, replace: true });
  }, [ready, navigate]);
  if (!deliveries || ready) return <div className="hush">Looking for a delivery …</div>;
  return (
    <Bench
      rail={<h2 className="railhead">Pair</h2>}
      glass={null}
      board={
        <Empty title="There is no delivery to pair.">
          <p>Pictures are paired with products after they have arrived.</p>
          <p>
            <Link to="/gather">Gather some</Link>
          </p>
        </Empty>
      }
    />
  );
}
