import { Button } from '@mantine/core';
import { lazy, memo, type RefObject, Suspense } from 'react';
import type { Line, Pairing } from '../../api/client';
import type { Where } from '../../router';
import { FilterField } from '../../ui/FilterField';
import { when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { brief } from '../../words/messages';
import { t, withWords } from '../../words/words';
import { type Group, saidOf } from './kinds';
import { TrialBoard } from './TrialBoard';
import './PairTop.css';

const Progress = lazy(() => import('../../ui/Progress').then((m) => ({ default: m.Progress })));
const Against = lazy(() => withWords('against', import('./Against')).then((m) => ({ default: m.Against })));

interface Props {
  pairing: Pairing;
  lines: Line[];
  group: Group | undefined;
  view: string;
  mayEdit: boolean;
  q: string | undefined;
  filterField: RefObject<HTMLInputElement | null>;
  go: (part: Where) => void;
  fixGroup: () => void;
}

/** What stands above the lines: the delivery, how it is looked at, the trial board, and a group that can be paired at once. */
export const PairTop = memo(function PairTop({
  pairing,
  lines,
  group,
  view,
  mayEdit,
  q,
  filterField,
  go,
  fixGroup,
}: Props) {
  const d = pairing.delivery;
  const here = pairing.lines.length;
  const differs = brief(lines[0] && group && saidOf(lines[0], group)?.says);
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{d.title}</h1>
          <p className="soft">
            {t('pair.facts', { count: d.lines, size: d.bytes, when: when(d.createdAt) })}
            <Suspense>
              <Against delivery={d} mayEdit={mayEdit} />
            </Suspense>
            {d.likeTitle && ` · ${t('pair.like_last', { title: d.likeTitle })}`}
          </p>
        </div>
        <fieldset className="views" aria-label={t('pair.views')}>
          {(['file', 'owner', 'series'] as const).map(
            (v) =>
              (v !== 'series' || pairing.series > 0) && (
                <button
                  type="button"
                  key={v}
                  aria-pressed={v === view}
                  onClick={() => go({ view: v === 'file' ? undefined : v, at: undefined })}
                >
                  {t(`pair.by_${v}`)}
                </button>
              ),
          )}
        </fieldset>
        <FilterField
          ref={filterField}
          label={t('pair.filter')}
          value={q ?? ''}
          onChange={(q) => go({ q, at: undefined })}
        />
      </div>
      <TrialBoard delivery={d.id} ladder={pairing.ladder} habits={pairing.habits} mayEdit={mayEdit} />
      {group && lines.length > 0 && (
        <p className="notice row">
          <span className="grow">
            {t(group.of === 'likely' ? 'pair.likely_group' : 'pair.group', {
              count: lines.length,
              differs: plainly(differs),
            })}
          </span>
          {mayEdit && (
            <Button size="compact-sm" className="go" onClick={fixGroup} disabled={here < pairing.total}>
              {t(group.of === 'likely' ? 'pair.accept_all' : 'pair.pair_all', { n: lines.length })}
            </Button>
          )}
        </p>
      )}
      {here < pairing.total && (
        <Suspense>
          <Progress label={t('pair.reading_lines')} done={here} of={pairing.total} />
        </Suspense>
      )}
    </header>
  );
});
