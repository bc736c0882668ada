import { t } from '../words/words';
import './Progress.css';

/** How far a work is, in words and as a bar. of 0: the end is not known. */
export function Progress({ label, done, of }: { label: string; done: number; of: number }) {
  return (
    <div className="progress">
      <div className="row">
        <span className="grow">{label}</span>
        <span className="figures">{of ? t('progress.of', { done, of }) : t('progress.so_far', { done })}</span>
      </div>
      <div
        className={of ? 'bar' : 'bar unknown'}
        role="progressbar"
        aria-label={label}
        aria-valuemin={0}
        aria-valuemax={of || undefined}
        aria-valuenow={of ? done : undefined}
      >
        <i style={{ width: of ? `${(100 * done) / of}%` : undefined }} />
      </div>
    </div>
  );
}
