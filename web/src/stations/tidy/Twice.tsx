import { Button } from '@mantine/core';
import { useMemo } from 'react';
import { type CopyFind, type TwiceFind, tidy, useTwice } from '../../api/tidy';
import type { Column } from '../../ui/columns';
import { bytes } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { Thumb } from '../../ui/Thumb';
import { usePicks } from '../../ui/usePicks';
import { usePlanned } from '../../ui/usePlanned';
import { named, t } from '../../words/words';
import { FindBoard } from './FindBoard';
import type { Focus } from './Tidy';

/** Pictures that are one in other bytes: the best of each stays. */
export function Twice({ onFocus }: { onFocus: (f: Focus) => void }) {
  const finds = useTwice();
  const mayEdit = useMayEdit();
  const { picked, toggle } = usePicks();
  const { busy, plan } = usePlanned();
  const columns = useMemo(() => twiceColumns(picked, (c) => onFocus({ sha: c.sha })), [picked, onFocus]);
  const bests = [...picked];
  return (
    <FindBoard
      name="twice"
      title={t('tidy.twice')}
      says={t('tidy.twice_what')}
      acts={
        mayEdit &&
        (finds.all?.length ?? 0) > 0 && (
          <Button
            className="go"
            loading={busy}
            onClick={() => void plan(() => tidy.plan({ finding: 'twice', bests, title: t('tidy.plan_twice') }))}
          >
            {bests.length ? t('tidy.keep_best_some', { count: bests.length }) : t('tidy.keep_best_all')}
          </Button>
        )
      }
      finds={finds}
      height={84}
      columns={columns}
      none={t('tidy.no_twice')}
      onAt={(g) => onFocus({ sha: g.copies[0]?.sha })}
      picked={picked}
      id={(g) => g.best}
      onPick={toggle}
    />
  );
}

const twiceColumns = (picked: ReadonlySet<number>, look: (c: CopyFind) => void): Column<TwiceFind>[] => [
  {
    id: 'picked',
    name: t('pictures.picked_column'),
    quiet: true,
    fixed: true,
    width: '24px',
    cell: (g) => (picked.has(g.best) ? '✓' : ''),
  },
  {
    id: 'best',
    name: t('tidy.best'),
    fixed: true,
    width: 'minmax(236px, 1fr)',
    cell: (g) => g.copies[0] && <Copy copy={g.copies[0]} look={look} says={named(`tidy.reason_${g.why}`)} />,
  },
  {
    id: 'others',
    name: t('tidy.others'),
    fixed: true,
    width: 'minmax(220px, 1.6fr)',
    cell: (g) => (
      <span className="copies">
        {g.copies.slice(1, 4).map((c) => (
          <Copy
            key={c.id}
            copy={c}
            look={look}
            says={c.places ? t('tidy.on_owners', { count: c.places }) : t('pictures.nowhere')}
          />
        ))}
        {g.copies.length > 4 && <span className="soft">+{g.copies.length - 4}</span>}
      </span>
    ),
  },
  { id: 'won', name: t('tidy.won'), width: '84px', figures: true, cell: (g) => bytes(g.won), text: (g) => g.won },
];

function Copy({ copy, says, look }: { copy: CopyFind; says: string; look: (c: CopyFind) => void }) {
  const smaller = copy.trueWidth < copy.width;
  return (
    <button type="button" tabIndex={-1} className="copy" onClick={() => look(copy)} title={copy.path}>
      <Thumb sha={copy.sha} size={64} />
      <span>
        {`${copy.width} × ${copy.height}`}
        {smaller && <em> {t('tidy.truly', { w: copy.trueWidth, h: copy.trueHeight })}</em>}
        <br />
        <span className="soft">{`${copy.format}, ${bytes(copy.bytes)}`}</span>
        <br />
        <span className="soft">{says}</span>
      </span>
    </button>
  );
}
