import type { Pairing } from '../../api/client';
import type { Where } from '../../router';
import { Filter } from '../../ui/Filter';
import { Grade } from '../../ui/Grade';
import { plainly } from '../../ui/Met';
import { brief, say, wordOf } from '../../words/messages';
import { named, t } from '../../words/words';
import './PairRail.css';
import { decidedKinds, gradeKinds, lookKinds } from './kinds';

interface Props {
  pairing: Pairing;
  show: string;
  group: string | undefined;
  go: (part: Where) => void;
}

/** The kinds of lines with their counts, which filter. */
export function PairRail({ pairing, show, group, go }: Props) {
  const { of, groups } = pairing.counts;
  const filter = (kind: string, name: React.ReactNode) => (
    <Filter
      key={kind}
      name={name}
      count={of[kind] ?? 0}
      on={show === kind}
      onClick={() => go({ show: kind, at: undefined })}
    />
  );
  const looks = lookKinds.filter((kind) => of[kind]);
  return (
    <>
      <h2 className="railhead">{t('pair.lines')}</h2>
      <Filter
        name={t('pair.all')}
        count={pairing.total}
        on={show === 'all'}
        onClick={() => go({ show: undefined, at: undefined })}
      />
      {gradeKinds.map((grade) => filter(grade, <Grade grade={grade} word />))}
      <h2 className="railhead">{t('pair.decided')}</h2>
      {decidedKinds.map((kind) => filter(kind, named(`kind.${kind}`)))}
      {looks.length > 0 && <h2 className="railhead">{t('pair.look')}</h2>}
      {looks.map((kind) => filter(kind, named(`kind.${kind}`)))}
      {groups.length > 0 && <h2 className="railhead">{t('pair.perhaps')}</h2>}
      {groups.slice(0, 8).map((g) => (
        <Filter
          key={wordOf(g.differs)}
          quiet
          name={plainly(brief(g.differs))}
          count={g.count}
          on={group === wordOf(g.differs)}
          onClick={() => go({ show: `perhaps:${wordOf(g.differs)}`, at: undefined, view: undefined })}
        />
      ))}
      {pairing.unfitAll > 0 && (
        <details className="unfit">
          <summary className="soft">{t('pair.unfit', { count: pairing.unfitAll })}</summary>
          <ul className="plain">
            {pairing.unfit.slice(0, 50).map((u) => (
              <li key={`${u.owner}-${u.key}`}>
                <code>{plainly(u.key)}</code> <span className="soft">{say(u.why)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
