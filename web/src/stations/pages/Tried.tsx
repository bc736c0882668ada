import { type Found, throughURL } from '../../api/guides';
import { say } from '../../words/messages';
import { named, t } from '../../words/words';
import type { Trial } from './useTry';

/** What a try of a guide found: the listing, then each item as it will be, with what is left out and why. */
export function TriedItems({ trial, onShow }: { trial: Trial; onShow: (item: string, step?: string) => void }) {
  const { listing, items } = trial;
  return (
    <section className="tried" aria-live="polite">
      <h3>{t('pages.tried')}</h3>
      {listing &&
        (listing.says ? (
          <p className="wrong">{say(listing.says)}</p>
        ) : (
          <p>
            {t('pages.found_items', { count: listing.items ?? 0 })}{' '}
            {listing.next ? t('pages.next_is', { address: listing.next }) : t('pages.no_next')}
          </p>
        ))}
      {items.map((it) => {
        const kept = it.pictures?.filter((p) => p.order > 0) ?? [];
        const left = it.pictures?.filter((p) => p.order === 0) ?? [];
        return (
          <article key={it.item}>
            <h4>
              {it.title || it.item}{' '}
              <button type="button" className="linkish" onClick={() => onShow(it.item ?? '', it.failed?.[0])}>
                {t('pages.show_this')}
              </button>
            </h4>
            <p className="soft mono clip" title={it.item}>
              {[it.sku, it.barcode].filter(Boolean).join(' · ') || it.item}
            </p>
            {it.says && <p className="wrong">{say(it.says)}</p>}
            {it.failed?.map((step) => (
              <p key={step} className="wrong">
                {t('pages.step_failed', { step: named(`pages.step_${step}`) })}
              </p>
            ))}
            {kept.length > 0 && <Strip pictures={kept} />}
            {!it.says && kept.length === 0 && <p className="notice">{t('pages.none_kept')}</p>}
            {left.length > 0 && (
              <details>
                <summary>{t('pages.left_out', { count: left.length })}</summary>
                <ul className="leftout">
                  {left.map((p) => (
                    <li key={p.address}>
                      <img src={throughURL(p.shown || p.address)} alt="" loading="lazy" />
                      <span>{p.says ? say(p.says) : ''}</span>
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </article>
        );
      })}
      {trial.busy && <p className="soft">{t('pages.reading')}</p>}
      {trial.why && <p className="wrong">{trial.why}</p>}
    </section>
  );
}

/** Pictures that are kept, in their order: the first is the main one. */
export function Strip({ pictures }: { pictures: Pick<Found, 'address' | 'width' | 'height' | 'from' | 'remarks'>[] }) {
  return (
    <ol className="strip">
      {pictures.map((p, i) => (
        <li key={p.address}>
          <img
            src={throughURL(p.address)}
            alt={t(i === 0 ? 'pages.main' : 'pages.place', { n: i + 1 })}
            loading="lazy"
          />
          <span className="figures">
            {p.width > 0 ? `${p.width} × ${p.height}` : t('pages.size_unknown')}
            {i === 0 && <b> {t('pages.main')}</b>}
          </span>
          <span className="soft" title={p.address}>
            {named(`pages.from_${p.from.replace('-', '_')}`)}
          </span>
          {p.remarks?.map((r) => (
            <span key={r.code} className="notice">
              {say(r)}
            </span>
          ))}
        </li>
      ))}
    </ol>
  );
}
