import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { cardQuery } from '../../api/queries';
import { Look } from '../../ui/Look';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';
import './ProductGlass.css';

interface Props {
  product: number;
  variant?: number;
}

/** A product as a customer would see it: choose the variant, its picture shows. */
export function ProductGlass({ product, variant }: Props) {
  const card = useQuery(cardQuery(product)).data;
  const [chosen, setChosen] = useState(variant ?? 0);
  const [place, setPlace] = useState(0);
  if (!card) return <div className="hush">{t('catalogue.opening')}</div>;
  const variants = card.variants ?? [];
  const shown = variants.find((v) => v.id === chosen);
  // A variant without pictures of its own is shown with the product's, as a shop does; and a product without
  // any with its first variant's.
  const own = shown?.pictures.length ? shown.pictures : card.pictures;
  const pictures = own.length ? own : shown ? [] : (variants.find((v) => v.pictures.length)?.pictures ?? []);
  const picture = pictures[Math.min(place, pictures.length - 1)];
  const pick = (id: number) => {
    setChosen(id === chosen ? 0 : id);
    setPlace(0);
  };
  return (
    <div className="shopwindow">
      <Look sha={picture?.sha} alt={picture?.alt ?? ''} />
      {pictures.length > 1 && (
        <ol className="order" aria-label={t('catalogue.pictures')}>
          {pictures.map((p, i) => (
            <li key={p.sha}>
              <button
                type="button"
                className={i === place ? 'current' : undefined}
                onClick={() => setPlace(i)}
                aria-label={t('catalogue.picture_n', { n: i + 1, alt: p.alt })}
              >
                <Thumb sha={p.sha} size={48} />
                <span className="figures">{i + 1}</span>
              </button>
            </li>
          ))}
        </ol>
      )}
      {picture && <p className="soft">{picture.alt}</p>}
      <h2>{card.title}</h2>
      <p className="mono">{shown?.sku ?? card.sku}</p>
      {shown?.barcode && <p className="soft mono">{shown.barcode}</p>}
      {variants.length > 0 && (
        <fieldset className="variants">
          <legend>{t('catalogue.variants')}</legend>
          {variants.map((v) => (
            <button type="button" key={v.id} aria-pressed={v.id === chosen} onClick={() => pick(v.id)}>
              <Thumb sha={v.pictures[0]?.sha} size={36} />
              <span className="grow">
                {Object.values(v.options).join(' · ') || v.sku}
                <br />
                <span className="soft">
                  {v.pictures.length ? t('catalogue.own', { count: v.pictures.length }) : t('catalogue.own_none')}
                </span>
              </span>
            </button>
          ))}
        </fieldset>
      )}
    </div>
  );
}
