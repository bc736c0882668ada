import { pictureURL } from '../api/client';
import { t } from '../words/words';
import './Look.css';

/** A picture large, which opens the original, with what is drawn over it; a quiet frame where there is none. */
export function Look({ sha, alt, children }: { sha?: string; alt: string; children?: React.ReactNode }) {
  if (!sha) return <div className="look none">{t('look.none')}</div>;
  return (
    <a className="look" href={pictureURL(sha, 'original')} target="_blank" rel="noreferrer" title={t('look.open')}>
      <img key={sha} src={pictureURL(sha, 480)} alt={alt} />
      {children}
    </a>
  );
}
