import type { Arrival, Delivery } from '../../api/client';
import { bytes, count } from '../../ui/format';
import { Look } from '../../ui/Look';
import { say } from '../../words/messages';

/** One arrival large, and what is to be said of it. */
export function ArrivalGlass({ arrival, delivery }: { arrival?: Arrival; delivery?: Delivery }) {
  if (!arrival || !delivery) return null;
  return (
    <>
      <Look sha={arrival.sha} alt={arrival.path} />
      <p className="mono wrap">{arrival.path}</p>
      {say(arrival.message) && <p className="notice">{say(arrival.message)}</p>}
      {arrival.seen && (
        <p className="notice">The same picture, byte for byte, had arrived before. It is stored once.</p>
      )}
      <dl className="facts">
        {arrival.width ? (
          <div>
            <dt>Pixels</dt>
            <dd>
              {arrival.width} × {arrival.height}
            </dd>
          </div>
        ) : null}
        {arrival.format && (
          <div>
            <dt>Type</dt>
            <dd>{arrival.format}</dd>
          </div>
        )}
        <div>
          <dt>Size</dt>
          <dd>
            {bytes(arrival.bytes)} ({count(arrival.bytes)} bytes)
          </dd>
        </div>
        {arrival.sha && (
          <div>
            <dt>SHA-256</dt>
            <dd className="mono">{arrival.sha.slice(0, 16)}…</dd>
          </div>
        )}
      </dl>
    </>
  );
}
