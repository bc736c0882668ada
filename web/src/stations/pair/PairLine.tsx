import type { Line, Owner } from '../../api/client';
import { FileName } from '../../ui/FileName';
import { baseName, plural } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { Met } from '../../ui/Met';
import { Strip, Thumb } from '../../ui/Thumb';
import { brief, sayAll } from '../../words/messages';
import { keyMet } from './keyMet';

/** One line: its file, what met the key, and who gets the picture. */
export function PairLine({ line, owners }: { line?: Line; owners: Map<number, Owner> }) {
  if (!line) return null;
  const owner = owners.get(line.owner ?? 0);
  const cut = line.path.length - baseName(line.path).length;
  return (
    <>
      <span role="gridcell">
        <Grade grade={line.aside ? 'ignored' : line.grade} />
      </span>
      <span role="gridcell">
        <Thumb sha={line.sha} size={36} />
      </span>
      <span role="gridcell" className="two">
        <FileName name={baseName(line.path)} spans={line.spans} from={cut} />
        {cut > 0 && (
          <span className="soft clip">
            <Met text={line.path.slice(0, cut)} spans={line.spans} />
          </span>
        )}
      </span>
      <span role="gridcell" aria-hidden className="soft">
        {owner ? '→' : ''}
      </span>
      {owner ? (
        <>
          <span role="gridcell" className="two">
            <b className="mono clip">
              <Met {...keyMet(line, owner)} />
            </b>
            <span className="soft clip">
              {line.person ? `by hand, ${line.person} · ` : ''}
              {line.keyText && line.keyText !== owner.sku ? `${owner.sku} · ` : ''}
              {line.also?.length ? `and ${plural(line.also.length, 'owner')} more · ` : ''}
              {line.doubt ? <span className="differs">{sayAll(line.doubt)}</span> : owner.label}
            </span>
          </span>
          <span role="gridcell" className="figures">
            {line.place ?? ''}
          </span>
          <span role="gridcell">
            <Strip shas={owner.now} most={3} />
          </span>
        </>
      ) : (
        // Nobody gets it, so that there is no place either: what stands against it has all the room.
        <span role="gridcell" aria-colspan={3} className="two rest">
          {line.candidates?.[0] && !line.aside ? (
            <Rivals line={line} owners={owners} />
          ) : (
            <span className="soft clip">{line.aside ? `set aside by ${line.person}` : reason(line)}</span>
          )}
        </span>
      )}
    </>
  );
}

/** Who a line may be meant for: the two that contest it, or the nearest and what differs. */
function Rivals({ line, owners }: { line: Line; owners: Map<number, Owner> }) {
  const name = (id?: number) => owners.get(id ?? 0)?.sku || owners.get(id ?? 0)?.label;
  const [first, second, ...more] = line.candidates ?? [];
  if (line.grade === 'unclaimed') {
    return (
      <>
        <span className="soft clip">
          nearest <span className="mono">{name(first?.owner)}</span>
        </span>
        <span className="differs clip">{brief(first?.differs) || sayAll(line.doubt)}</span>
      </>
    );
  }
  return (
    <>
      <span className="soft clip">
        <span className="mono">{name(first?.owner)}</span> or <span className="mono">{name(second?.owner)}</span>
        {more.length > 0 && ` and ${more.length} more`}
      </span>
      {line.doubt && <span className="differs clip">{sayAll(line.doubt)}</span>}
    </>
  );
}

const reason = (line: Line) => sayAll(line.grade === 'ignored' ? line.why : line.doubt);
