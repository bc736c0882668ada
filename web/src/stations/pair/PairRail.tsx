import type { Pairing } from '../../api/client';
import type { Where } from '../../router';
import { Filter } from '../../ui/Filter';
import { plural } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { brief, say, wordOf } from '../../words/messages';
import { decidedKinds, gradeKinds, lookKinds } from './kinds';
import './PairRail.css';

interface Props {
  pairing: Pairing;
  show: string;
  group: string | undefined;
  go: (part: Where) => void;
}

/** The kinds of lines with their counts, which filter. */
export function PairRail({ pairing, show, group, go }: Props) {
  const { of, groups } = pairing.counts;
  const counts = (kind: string) => of[kind] ?? 0;
  const filter = (kind: string, name: string) => (
    <Filter
      key={kind}
      name={name}
      count={counts(kind)}
      on={show === kind}
      onClick={() => go({ show: kind, at: undefined })}
    />
  );
  const looks = Object.entries(lookKinds).filter(([kind]) => counts(kind) > 0);
  return (
    <>
      <h2 className="railhead">Lines</h2>
      <Filter
        name="✱ all"
        count={pairing.total}
        on={show === 'all'}
        onClick={() => go({ show: undefined, at: undefined })}
      />
      {gradeKinds.map((g) => (
        <Filter
          key={g}
          name={<Grade grade={g} word />}
          count={counts(g)}
          on={show === g}
          onClick={() => go({ show: g, at: undefined })}
        />
      ))}
      <h2 className="railhead">Decided</h2>
      {Object.entries(decidedKinds).map(([kind, name]) => filter(kind, name))}
      {looks.length > 0 && <h2 className="railhead">Worth a look</h2>}
      {looks.map(([kind, name]) => filter(kind, name))}
      {groups.length > 0 && <h2 className="railhead">Unclaimed, perhaps</h2>}
      {groups.slice(0, 8).map((g) => (
        <Filter
          key={wordOf(g.differs)}
          quiet
          name={brief(g.differs)}
          count={g.count}
          on={group === wordOf(g.differs)}
          onClick={() => go({ show: `perhaps:${wordOf(g.differs)}`, at: undefined, view: undefined })}
        />
      ))}
      {pairing.unfitAll > 0 && (
        <details className="unfit">
          <summary className="soft">{plural(pairing.unfitAll, 'key is', 'keys are')} unfit to pair by</summary>
          <ul className="plain">
            {pairing.unfit.slice(0, 50).map((u) => (
              <li key={`${u.owner}-${u.key}`}>
                <code>{u.key}</code> <span className="soft">{say(u.why)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
