import type { ShopPage } from '../../api/hand';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';
import type { pictured } from './Shop';

interface Props {
  page: ShopPage;
  shown: ReturnType<typeof pictured>;
  language: string;
}

/** What is not seen of a page: what a screen reader says, in order, how a search result shows it, and what its files are called. */
export function Aloud({ page, shown, language }: Props) {
  const pictures = page.kind === 'category' ? page.pictures : shown.pictures;
  const main = pictures[0];
  const tiles = page.tiles ?? [];
  return (
    <div className="aloud">
      <h2>{t('shop.aloud')}</h2>
      <ol lang={language}>
        {page.path.length > 0 && <li>{page.path.map((c) => c.title).join(', ')}</li>}
        <li>
          <b>{page.title}</b>
        </li>
        {pictures.map((p) => (
          <li key={p.sha} className={p.alt ? undefined : 'wrong'}>
            {p.alt || t('shop.no_alt')}
          </li>
        ))}
        {(page.variants ?? []).map((v) => (
          <li key={v.id}>{Object.values(v.options ?? {}).join(', ') || v.title}</li>
        ))}
        {tiles.map((it) => (
          <li key={it.id}>
            {it.pictures[0] && `${it.pictures[0].alt || t('shop.no_alt')}: `}
            {it.title}
          </li>
        ))}
      </ol>
      <h2>{t('shop.result')}</h2>
      <div className="shopresult" lang={language}>
        <Thumb sha={main?.sha} size={56} alt={main?.alt ?? ''} />
        <div>
          <b>{page.title}</b>
          <br />
          <span className="soft">{page.path.map((c) => c.title).join(' › ')}</span>
          <br />
          <span className="soft">{main?.caption || main?.alt || t('shop.no_alt')}</span>
        </div>
      </div>
      {pictures.some((p) => p.fileName) && (
        <>
          <h2>{t('shop.file_names')}</h2>
          <ol>
            {pictures.map((p) => (
              <li key={p.sha} className="mono">
                {p.fileName || '–'}
              </li>
            ))}
          </ol>
        </>
      )}
    </div>
  );
}
