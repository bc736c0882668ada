import { memo } from 'react';
import type { Pairing } from '../../api/client';
import type { Where } from '../../router';
import { Filter } from '../../ui/Filter';
import { Grade } from '../../ui/Grade';
import { plainly } from '../../ui/Met';
import { brief, say, wordOf } from '../../words/messages';
import { named, t } from '../../words/words';
import './PairRail.css';
import { decidedKinds, type Group, gradeKinds, groupAddress, lookKinds } from './kinds';

interface Props {
  pairing: Pairing;
  show: string;
  group: Group | undefined;
  go: (part: Where) => void;
}

/** The kinds of lines with their counts, which filter. */
export const PairRail = memo(function PairRail({ pairing, show, group, go }: Props) {
  const { of, groups, likely, toRead } = pairing.counts;
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
      <Filter
        name={t('pair.to_read')}
        count={toRead}
        on={show === 'toread'}
        onClick={() => go({ show: 'toread', at: undefined })}
      />
      {looks.length > 0 && <h2 className="railhead">{t('pair.look')}</h2>}
      {looks.map((kind) => filter(kind, named(`kind.${kind}`)))}
      {(
        [
          ['likely', likely, t('pair.because')],
          ['unclaimed', groups, t('pair.perhaps')],
        ] as const
      ).map(
        ([of, all, head]) =>
          all.length > 0 && (
            <section key={of} aria-label={head}>
              <h2 className="railhead">{head}</h2>
              {all.slice(0, 8).map((g) => {
                const word = wordOf(g.differs);
                return (
                  <Filter
                    key={word}
                    quiet
                    name={plainly(brief(g.differs))}
                    count={g.count}
                    on={group?.of === of && group.word === word}
                    onClick={() => go({ show: groupAddress({ of, word }), at: undefined, view: undefined })}
                  />
                );
              })}
            </section>
          ),
      )}
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
});
