import type { Change, Touched } from '../api/client';
import { named, t } from '../words/words';
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
      all.set(name, owner ? owner.sku || owner.label : t('subject.new', { name: fieldName(name) }));
    } else {
      all.set(name, value === null ? '' : String(value));
    }
  }
  return all;
}

/** What a field is called; one of the catalogue's own by its own name. */
const fieldName = (name: string) => named(`field.${name}`) || name;

const sideOf = (change: Change, side: 'before' | 'after') => fields<Record<string, Value>>(change, side);

/** One side in words. */
function wordsOf(change: Change, side: 'before' | 'after', touched: Touched): string {
  const own = sideOf(change, side);
  if (!own) return t(side === 'before' ? 'subject.not_there' : 'subject.removed');
  const whole = typeof own.kind === 'string' ? ['sku', 'title'] : []; // of a whole owner the name's column says these
  const words = [...texts(own, touched)]
    .filter(([name]) => !whole.includes(name))
    .map(([name, text]) => (text ? `${fieldName(name)} ${text}` : t('subject.no_field', { name: fieldName(name) })));
  if (typeof own.kind === 'string') words.unshift(named(`owner.${own.kind}`) || own.kind);
  return words.join(' · ');
}

/** A product, variant or category itself. */
export const ownerRenderer: Renderer = {
  name: (change, touched) => {
    const called = ownerName(change.id, touched);
    if (touched.owners.has(change.id)) return called;
    const known = sideOf(change, 'after') ?? sideOf(change, 'before') ?? {};
    return { code: String(known.sku ?? known.kind ?? called.code), label: String(known.title ?? '') };
  },
  text: wordsOf,
  Side: ({ change, side, touched }) => {
    const soft = side === 'before' || !sideOf(change, side);
    return <span className={soft ? 'soft clip' : 'clip'}>{wordsOf(change, side, touched)}</span>;
  },
  Glass: ({ change, touched }) => {
    const before = sideOf(change, 'before');
    const after = sideOf(change, 'after');
    const was = texts(before ?? {}, touched);
    const will = texts(after ?? {}, touched);
    return (
      <>
        {!before && <p>{t('subject.made')}</p>}
        {!after && <p>{t('subject.taken_out')}</p>}
        <dl className="facts">
          {[...new Set([...was.keys(), ...will.keys()])].map((name) => (
            <div key={name}>
              <dt>{fieldName(name)}</dt>
              <dd>
                {before && <span className={after ? 'struck' : undefined}>{was.get(name) || t('subject.none')}</span>}
                {before && after && ' → '}
                {after && (will.get(name) || t('subject.none'))}
              </dd>
            </div>
          ))}
        </dl>
      </>
    );
  },
};
