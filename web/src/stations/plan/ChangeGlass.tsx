import type { Change } from '../../api/client';
import { Look } from '../../ui/Look';
import { ownerWords } from './ChangeLines';

/** One change large: the owner's pictures before and after, with their wording. */
export function ChangeGlass({ change }: { change?: Change }) {
  if (!change) return <p className="soft">Move through the lines to see one large.</p>;
  const before = (change.before ?? []).map((p) => p.sha);
  return (
    <>
      <h3 className="mono">{change.owner.sku || change.owner.kind}</h3>
      <p>{change.owner.label}</p>
      {change.why && <p className="notice">{change.why}</p>}
      {change.subject === 'owner' ? (
        <dl className="facts">
          <div>
            <dt>Before</dt>
            <dd>{change.was ? ownerWords(change.was) : 'not there'}</dd>
          </div>
          <div>
            <dt>After</dt>
            <dd>{change.will ? ownerWords(change.will) : 'removed'}</dd>
          </div>
        </dl>
      ) : (
        <ol className="large">
          {(change.after ?? []).map((p, i) => (
            <li key={`${p.sha}-${String(i)}`}>
              <Look sha={p.sha} alt={p.alt ?? ''} />
              <span>
                <b className="figures">{i + 1}</b> {p.alt || 'no wording'}
                <br />
                <span className="soft">{before.includes(p.sha) ? 'stands already' : 'new'}</span>
              </span>
            </li>
          ))}
          {change.after?.length === 0 && <li className="soft">No pictures are left.</li>}
        </ol>
      )}
      {change.gone && change.gone.length > 0 && (
        <>
          <h4>Taken off</h4>
          <ol className="large">
            {change.gone.map((p) => (
              <li key={p.sha} className="faint">
                <Look sha={p.sha} alt={p.alt ?? ''} />
                <span>
                  <b className="figures">{p.place}</b> {p.alt || 'no wording'}
                  <br />
                  <span className="soft">stands at {p.place} now</span>
                </span>
              </li>
            ))}
          </ol>
        </>
      )}
    </>
  );
}
