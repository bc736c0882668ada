import { useState } from 'react';
import { pictureURL } from '../../api/client';
import type { ShopPage } from '../../api/hand';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';
import { pictured } from './Shop';

interface Props {
  page: ShopPage;
  chosen: number;
  onChoose: (variant: number) => void;
}

/** A product's page: the picture, the others in their order, and the variants to choose from. */
export function ProductPage({ page, chosen, onChoose }: Props) {
  const [place, setPlace] = useState(0);
  const { variant, pictures } = pictured(page, chosen);
  const picture = pictures[Math.min(place, pictures.length - 1)];
  return (
    <div className="shopproduct">
      <figure>
        {picture ? (
          <img src={pictureURL(picture.sha, 480)} alt={picture.alt ?? ''} title={picture.title} />
        ) : (
          <div className="shopnone">{t('shop.no_picture')}</div>
        )}
        {picture?.caption && <figcaption>{picture.caption}</figcaption>}
        {pictures.length > 1 && (
          <div className="shopthumbs">
            {pictures.map((p, i) => (
              <button
                type="button"
                key={p.sha}
                aria-pressed={p === picture}
                aria-label={t('shop.picture_n', { n: i + 1, alt: p.alt ?? '' })}
                onClick={() => setPlace(i)}
              >
                <Thumb sha={p.sha} size={64} />
              </button>
            ))}
          </div>
        )}
      </figure>
      <div>
        <h1>{page.title}</h1>
        <p className="soft mono">{variant?.sku ?? page.sku}</p>
        {(page.variants?.length ?? 0) > 0 && (
          <fieldset className="shopvariants">
            <legend>{t('shop.choose')}</legend>
            {page.variants?.map((v) => (
              <button
                type="button"
                key={v.id}
                aria-pressed={v.id === chosen}
                onClick={() => {
                  onChoose(v.id === chosen ? 0 : v.id);
                  setPlace(0);
                }}
              >
                <Thumb sha={v.pictures[0]?.sha} size={32} /> {Object.values(v.options ?? {}).join(' · ') || v.title}
              </button>
            ))}
          </fieldset>
        )}
        {picture?.description && <p>{picture.description}</p>}
      </div>
    </div>
  );
}
