import { Met } from './Met';
import './FileName.css';

/** How many letters of a long name's end always stay: the number and what tells it from its neighbours stand there. */
const tail = 14;

/** A file's name on one line. Where it doesn't fit, its middle is left out. spans and from are as for Met. */
export function FileName({ name, spans, from = 0 }: { name: string; spans?: number[][]; from?: number }) {
  let cut = name.length > 2 * tail ? name.length - tail : name.length;
  if (/^[\udc00-\udfff]/.test(name.slice(cut))) cut--; // not within a letter
  return (
    <span className="filename mono">
      <span className="clip">
        <Met text={name.slice(0, cut)} spans={spans} from={from} />
      </span>
      {cut < name.length && (
        <span>
          <Met text={name.slice(cut)} spans={spans} from={from + cut} />
        </span>
      )}
    </span>
  );
}
