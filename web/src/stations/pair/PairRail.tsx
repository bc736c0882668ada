import type { Pairing } from '../../api/client';
import { Filter } from '../../ui/Filter';
import { plural } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { decidedKinds, gradeKinds, lookKinds, type perhaps } from './kinds';

interface Props {
  pairing: Pairing;
  show: string;
  group: string | undefined;
  groups: ReturnType<typeof perhaps>;
  counts: (kind: string) => number;
  go: (part: { show?: string; at?: number; view?: 'owner' }) => void;
}

/** The kinds of lines with their counts, which filter. */
export function PairRail({ pairing, show, group, groups, counts, go }: Props) {
  return (
    <>
      <h2 className="railhead">Lines</h2>
      <Filter name="✱ all" count={pairing.total} on={show === 'all'} onClick={() => go({ show: undefined, at: 0 })} />
      {gradeKinds.map((g) => (
        <Filter
          key={g}
          name={<Grade grade={g} word />}
          count={counts(g)}
          on={show === g}
          onClick={() => go({ show: g, at: 0 })}
        />
      ))}
      <h2 className="railhead">Decided</h2>
      {decidedKinds.map((name) => (
        <Filter
          key={name}
          name={name}
          count={counts(name)}
          on={show === name}
          onClick={() => go({ show: name, at: 0 })}
        />
      ))}
      {lookKinds.some((name) => counts(name)) && <h2 className="railhead">Worth a look</h2>}
      {lookKinds.map((name) =>
        counts(name) ? (
          <Filter
            key={name}
            name={name}
            count={counts(name)}
            on={show === name}
            onClick={() => go({ show: name, at: 0 })}
          />
        ) : null,
      )}
      {groups.length > 0 && <h2 className="railhead">Unclaimed, perhaps</h2>}
      {groups.slice(0, 8).map(([differs, of]) => (
        <Filter
          key={differs}
          quiet
          name={differs}
          count={of.length}
          on={group === differs}
          onClick={() => go({ show: `perhaps:${differs}`, at: 0, view: undefined })}
        />
      ))}
      {pairing.unfitAll > 0 && (
        <details className="unfit">
          <summary className="soft">{plural(pairing.unfitAll, 'key is', 'keys are')} unfit to pair by</summary>
          <ul className="plain">
            {pairing.unfit.slice(0, 50).map((u) => (
              <li key={`${u.owner}-${u.key}`}>
                <code>{u.key}</code> <span className="soft">{u.why}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
