import type { Change, Touched } from '../api/client';
import { fields, ownerName, type Renderer } from './subject';
import './owner.css';

type Value = string | number | null | { [name: string]: Value };

/** What is not shown as a field: what the thing is, and where it stands in lists. */
const quiet = new Set(['kind', 'ordinal']);

/** The fields of one side as name and text, those of groups (options, attributes, titles) one by one. */
function texts(side: Record<string, Value>, touched: Touched): Map<string, string> {
  const all = new Map<string, string>();
  for (const [name, value] of Object.entries(side)) {
    if (quiet.has(name)) continue;
    if (value !== null && typeof value === 'object') {
      for (const [inner, text] of Object.entries(value)) all.set(inner, text === null ? '' : String(text));
    } else if ((name === 'parent' || name === 'category') && typeof value === 'number') {
      const owner = touched.owners.get(value);
      all.set(name === 'parent' ? 'belongs to' : name, owner ? owner.sku || owner.label : `new ${name}`);
    } else {
      all.set(name, value === null ? '' : String(value));
    }
  }
  return all;
}

const sideOf = (change: Change, side: 'before' | 'after') => fields<Record<string, Value>>(change, side);

/** A product, variant or category itself. */
export const ownerRenderer: Renderer = {
  name: (change, touched) => {
    const named = ownerName(change.id, touched);
    if (touched.owners.has(change.id)) return named;
    const known = sideOf(change, 'after') ?? sideOf(change, 'before') ?? {};
    return { code: String(known.sku ?? known.kind ?? named.code), label: String(known.title ?? '') };
  },
  Side: ({ change, side, touched }) => {
    const own = sideOf(change, side);
    if (!own) return <span className="soft clip">{side === 'before' ? 'not there' : 'removed'}</span>;
    const named = typeof own.kind === 'string' ? ['sku', 'title'] : []; // of a whole owner the name's column says these
    const shown = [...texts(own, touched)].filter(([name]) => !named.includes(name));
    const words = shown.map(([name, text]) => (text ? `${name} ${text}` : `no ${name}`));
    if (typeof own.kind === 'string') words.unshift(own.kind);
    return <span className={side === 'before' ? 'soft clip' : 'clip'}>{words.join(' · ')}</span>;
  },
  Glass: ({ change, touched }) => {
    const before = sideOf(change, 'before');
    const after = sideOf(change, 'after');
    const was = texts(before ?? {}, touched);
    const will = texts(after ?? {}, touched);
    return (
      <>
        {!before && <p>It is made.</p>}
        {!after && <p>It is taken out.</p>}
        <dl className="facts">
          {[...new Set([...was.keys(), ...will.keys()])].map((name) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>
                {before && <span className={after ? 'struck' : undefined}>{was.get(name) || 'none'}</span>}
                {before && after && ' → '}
                {after && (will.get(name) || 'none')}
              </dd>
            </div>
          ))}
        </dl>
      </>
    );
  },
};
