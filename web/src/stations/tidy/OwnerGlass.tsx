import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { gallery, ownerOffersQuery } from '../../api/gallery';
import { ownerQuery } from '../../api/hand';
import { PickGrid } from '../../ui/PickGrid';
import { useMayEdit } from '../../ui/session';
import { usePicks } from '../../ui/usePicks';
import { usePlanned } from '../../ui/usePlanned';
import { named, t } from '../../words/words';
import '../pictures/Pictures.css';
import './Tidy.css';

/** An owner that misses something, and the pictures that speak for it, the best first: pick some and put them there. */
export function OwnerGlass({ owner }: { owner: number }) {
  const of = useQuery(ownerQuery(owner)).data;
  const offers = useQuery(ownerOffersQuery(owner)).data;
  const mayEdit = useMayEdit();
  const picks = usePicks();
  const { busy, plan } = usePlanned();
  if (!of || !offers) return <div className="hush">{t('tidy.looking')}</div>;
  return (
    <div className="factsof">
      <h2>
        <span className="mono">{of.sku}</span> {of.title}
      </h2>
      <p className="row wrapping">
        <Link to="/catalogue/shop/$owner" params={{ owner: String(owner) }}>
          {t('tidy.as_customer')}
        </Link>
        <Link to="/catalogue/pictures" search={{ q: of.sku, at: owner }}>
          {t('tidy.by_hand')}
        </Link>
      </p>
      <h3>{t('tidy.offers')}</h3>
      {offers.length === 0 && <p className="soft">{t('tidy.no_offers')}</p>}
      <PickGrid
        whole
        pictures={offers}
        isPicked={(p) => picks.picked.has(p.id)}
        onPick={(p) => picks.toggle(p.id)}
        says={(p) => p.owner || t('pictures.nowhere')}
      />
      {mayEdit && offers.length > 0 && (
        <Button
          className="go"
          loading={busy}
          disabled={picks.picked.size === 0}
          onClick={() =>
            void plan(() =>
              gallery.plan({
                act: 'place',
                pictures: [...picks.picked],
                owners: [owner],
                rule: 'add_after',
                title: t('tidy.plan_offer', { owner: of.sku || of.title || named(`owner.${of.kind}`) }),
              }),
            )
          }
        >
          {t('tidy.place_offers', { count: picks.picked.size })}
        </Button>
      )}
    </div>
  );
}
