import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { gallery, ownerOffersQuery } from '../../api/gallery';
import { ownerQuery } from '../../api/hand';
import { plainly } from '../../ui/Met';
import { useMayEdit } from '../../ui/session';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';
import { usePlanned } from './usePlanned';

/** An owner that misses something, and the pictures that speak for it, the best first: pick some and put them there. */
export function OwnerGlass({ owner }: { owner: number }) {
  const of = useQuery(ownerQuery(owner)).data;
  const offers = useQuery(ownerOffersQuery(owner)).data;
  const mayEdit = useMayEdit();
  const [picked, setPicked] = useState<number[]>([]);
  const { busy, plan } = usePlanned();
  if (!of || !offers) return <div className="hush">{t('tidy.looking')}</div>;
  const toggle = (id: number) => setPicked((was) => (was.includes(id) ? was.filter((x) => x !== id) : [...was, id]));
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
      <ul className="pickgrid offers">
        {offers.map((p) => (
          <li key={p.id}>
            <button
              type="button"
              aria-pressed={picked.includes(p.id)}
              onClick={() => toggle(p.id)}
              title={plainly(p.path)}
            >
              <Thumb sha={p.sha} size={88} />
              <span className="mono clip">{plainly(p.name)}</span>
              <span className="soft clip">{p.owner || t('pictures.nowhere')}</span>
            </button>
          </li>
        ))}
      </ul>
      {mayEdit && offers.length > 0 && (
        <Button
          className="go"
          loading={busy}
          disabled={picked.length === 0}
          onClick={() =>
            void plan(() =>
              gallery.plan({
                act: 'place',
                pictures: picked,
                owners: [owner],
                rule: 'add_after',
                title: t('tidy.plan_offer', { owner: of.sku || of.title || named(`owner.${of.kind}`) }),
              }),
            )
          }
        >
          {t('tidy.place_offers', { count: picked.length })}
        </Button>
      )}
    </div>
  );
}
