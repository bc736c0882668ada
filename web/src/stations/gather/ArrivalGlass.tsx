import type { Arrival, Delivery } from '../../api/client';
import { Look } from '../../ui/Look';
import { plainly } from '../../ui/Met';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import { Ways } from '../sources/Ways';

/** One arrival large, and what is to be said of it. */
export function ArrivalGlass({ arrival, delivery }: { arrival?: Arrival; delivery?: Delivery }) {
  if (!arrival || !delivery) return null;
  return (
    <>
      <Look sha={arrival.sha} alt={arrival.path} />
      <p className="mono wrap">{plainly(arrival.path)}</p>
      {say(arrival.message) && <p className="notice">{say(arrival.message)}</p>}
      {arrival.seen && <p className="notice">{t('gather.seen')}</p>}
      <dl className="facts">
        {arrival.width ? (
          <div>
            <dt>{t('column.pixels')}</dt>
            <dd>
              {arrival.width} × {arrival.height}
            </dd>
          </div>
        ) : null}
        {arrival.format && (
          <div>
            <dt>{t('column.type')}</dt>
            <dd>{arrival.format}</dd>
          </div>
        )}
        <div>
          <dt>{t('column.size')}</dt>
          <dd>{t('gather.exact', { size: arrival.bytes, n: arrival.bytes })}</dd>
        </div>
        {arrival.sha && (
          <div>
            <dt>SHA-256</dt>
            <dd className="mono">{arrival.sha.slice(0, 16)}…</dd>
          </div>
        )}
      </dl>
      {arrival.sha && <Ways sha={arrival.sha} />}
    </>
  );
}
