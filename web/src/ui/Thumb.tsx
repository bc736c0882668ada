import { pictureURL } from '../api/client';
import { t } from '../words/words';
import './Thumb.css';

/** A small picture; an empty frame where there is none. */
export function Thumb({ sha, size, alt = '' }: { sha?: string; size: number; alt?: string }) {
  if (!sha) return <span className="thumb none" style={{ width: size, height: size }} aria-hidden />;
  return (
    <img
      className="thumb"
      src={pictureURL(sha, size > 96 ? 480 : 96)}
      width={size}
      height={size}
      alt={alt}
      loading="lazy"
      decoding="async"
      draggable={false}
    />
  );
}

/** Pictures in their order, as many as fit. */
export function Strip({
  shas,
  size = 28,
  most = 6,
  was,
  gone,
}: {
  shas: string[];
  size?: number;
  most?: number;
  was?: string[];
  /** Those that are taken off. */
  gone?: string[];
}) {
  if (shas.length === 0) return <span className="soft">{t('strip.none')}</span>;
  const fresh = was ? shas.filter((sha) => !was.includes(sha)).length : 0;
  const leaving = gone ? shas.filter((sha) => gone.includes(sha)).length : 0;
  const says = [
    t('strip.says', { count: shas.length }),
    fresh > 0 && t('strip.new', { n: fresh }),
    leaving > 0 && t('strip.gone', { n: leaving }),
  ];
  return (
    <span className="strip">
      <span className="unseen">{says.filter(Boolean).join(', ')}</span>
      {shas.slice(0, most).map((sha, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a place in the order is what it is
        <span key={i} className={was && !was.includes(sha) ? 'fresh' : gone?.includes(sha) ? 'leaving' : undefined}>
          <Thumb sha={sha} size={size} />
        </span>
      ))}
      {shas.length > most && (
        <span className="soft" aria-hidden>
          +{shas.length - most}
        </span>
      )}
    </span>
  );
}
