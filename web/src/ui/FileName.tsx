import { Met } from './Met';
import './FileName.css';

/** How many letters of a long name's end always stay: the number and what tells it from its neighbours stand there. */
const tail = 14;
/** How many letters of a long name are drawn at all. */
const most = 120;
/** How many letters before a key that was met are shown, where it stands far inside. */
const lead = 8;

/**
 * A file's name on one line. Where it doesn't fit, what stands before the key and behind it is left out: the part that met the key
 * and the end stay in sight. spans and from are as for Met.
 */
export function FileName({ name, spans, from = 0 }: { name: string; spans?: number[][]; from?: number }) {
  let cut = name.length > 2 * tail ? name.length - tail : name.length;
  if (inLetter(name, cut)) cut--;
  const met = (spans?.[0]?.[0] ?? from) - from;
  let start = met > 40 && met < cut ? met - lead : 0;
  if (inLetter(name, start)) start--;
  const end = Math.min(cut, start + most);
  return (
    <span className="filename mono" title={name.length > 40 ? name : undefined}>
      {start > 0 && <span aria-hidden>…</span>}
      <span className="clip">
        <Met text={name.slice(start, end)} spans={spans} from={from + start} />
      </span>
      {cut < name.length && (
        <span>
          <Met text={name.slice(cut)} spans={spans} from={from + cut} />
        </span>
      )}
    </span>
  );
}

/** Whether a place is within a letter of two units. */
const inLetter = (name: string, at: number) => /^[\udc00-\udfff]/.test(name.slice(at, at + 1));
