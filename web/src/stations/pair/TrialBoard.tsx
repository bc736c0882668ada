import { useMediaQuery } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { Cell, Habit } from '../../api/client';
import { ask, type Off, trialQuery, useAsk } from '../../api/queries';
import { count } from '../../ui/format';
import { Shape } from '../../ui/Grade';
import { useSettings } from '../../ui/settings';
import { say } from '../../words/messages';
import { named, t } from '../../words/words';
import './TrialBoard.css';

const fits = ['whole', 'within', 'part', 'folder', 'words', 'near'] as const;

interface Props {
  delivery: number;
  ladder: Cell[];
  habits: Habit[];
  mayEdit: boolean;
}

const same = (a: Cell, b: Cell) => a.key === b.key && a.fit === b.fit;
const keyName = (key: string) => named(`key.${key}`) || key;
const cellName = (c: Cell) => `${keyName(c.key)} ${named(`fit.${c.fit}`)}`;
const bare = ({ key, fit }: Cell): Cell => ({ key, fit });

/** Every key in every fit tried alone on the delivery, with counts; the cells that are on make the ladder. */
export function TrialBoard({ delivery, ladder, habits, mayEdit }: Props) {
  const trial = useQuery(trialQuery(delivery));
  const [{ trialFolded }, keep] = useSettings();
  const small = useMediaQuery('(max-width: 900px), (max-height: 500px)');
  const open = !(trialFolded ?? small);
  const choose = useAsk(
    (choice: { cells: Cell[]; off: Off[] }) => ask.choose(delivery, choice),
    [['pairing', delivery]],
  );
  const off = habits.filter((h) => h.off).map((h) => h.kind as Off);
  const board = trial.data;
  const cells = board?.cells ?? [];
  const chosen = choose.isPending ? (choose.variables?.cells ?? []) : ladder;
  const on = (cell: Cell) => chosen.length === 0 || chosen.some((c) => same(c, cell));
  const set = (next: Cell[]) => choose.mutate({ cells: next.map(bare), off });
  const toggle = (cell: Cell) => {
    const now = cells.filter(on);
    const next = on(cell) ? now.filter((c) => !same(c, cell)) : [...now, cell];
    if (next.length) set(next.length === cells.length ? [] : next);
  };
  const toggleHabit = (h: Habit) =>
    choose.mutate({
      cells: ladder.map(bare),
      off: h.off ? off.filter((k) => k !== h.kind) : [...off, h.kind as Off],
    });
  // A key that explains nothing needs no row; it is named, so that its absence is no riddle.
  const keys = [...new Set(cells.map((c) => c.key))];
  const idle = keys.filter((k) => !cells.some((c) => c.key === k && c.sure + c.likely + c.contested > 0));
  return (
    <section className="trial" aria-label={t('trial.name')}>
      <div className="row">
        <button type="button" className="fold" aria-expanded={open} onClick={() => keep({ trialFolded: open })}>
          <span aria-hidden>{open ? '▾' : '▸'}</span> {t('trial.name')}
        </button>
        <span className="soft grow">
          {chosen.length === 0
            ? t('trial.every')
            : t('trial.some', { n: chosen.length, of: cells.length || chosen.length })}
        </span>
        {mayEdit && board && board.ladder.length > 0 && (
          <button
            type="button"
            className="linkish"
            title={board.ladder.map(cellName).reduce((a, b) => t('trial.then', { a, b }))}
            onClick={() => set(board.ladder)}
          >
            {t('trial.take')}
          </button>
        )}
        {mayEdit && chosen.length > 0 && (
          <button type="button" className="linkish" onClick={() => set([])}>
            {t('trial.take_all')}
          </button>
        )}
      </div>
      {open && (
        <>
          {trial.isPending && <p className="soft">{t('trial.trying')}</p>}
          {trial.isError && <p className="wrong">{trial.error.message}</p>}
          {board && (
            <table>
              <thead>
                <tr>
                  <td />
                  {fits.map((fit) => (
                    <th key={fit} scope="col">
                      {t(`fit.${fit}`)}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {keys
                  .filter((k) => !idle.includes(k))
                  .map((key) => (
                    <tr key={key}>
                      <th scope="row">{keyName(key)}</th>
                      {fits.map((fit) => {
                        const cell = cells.find((c) => c.key === key && c.fit === fit);
                        if (!cell) return <td key={fit} />;
                        const step = board.ladder.findIndex((c) => same(c, cell)) + 1;
                        const { sure, likely, contested, unclaimed } = cell;
                        const says = t('trial.counts', { sure, likely, contested, unclaimed });
                        const stepped = step ? t('trial.step', { step }) : '';
                        return (
                          <td key={fit}>
                            <button
                              type="button"
                              className={cell.sure + cell.likely + cell.contested ? undefined : 'nothing'}
                              aria-pressed={on(cell)}
                              title={`${says}${stepped && `\n${stepped}`}`}
                              disabled={!mayEdit}
                              onClick={() => toggle(cell)}
                            >
                              <span className="unseen">{`${cellName(cell)}: ${says}${stepped && `; ${stepped}`}`}</span>
                              <Figure n={cell.sure} of="sure" />
                              <Figure n={cell.likely} of="likely" />
                              <Figure n={cell.contested} of="contested" />
                              {cell.sure + cell.likely + cell.contested === 0 && <span aria-hidden>–</span>}
                              {step > 0 && <sup aria-hidden>{step}</sup>}
                            </button>
                          </td>
                        );
                      })}
                    </tr>
                  ))}
              </tbody>
            </table>
          )}
          {idle.length > 0 && (
            <p className="soft idle">
              {t('trial.idle', { count: idle.length, keys: idle.map(keyName).join(` ${t('trial.and')} `) })}
            </p>
          )}
          {habits.length > 0 && (
            <ul className="habits" aria-label={t('trial.habits')}>
              {habits.map((h) => (
                <li key={h.kind}>
                  <label title={named(`off.${h.kind}`)}>
                    <input type="checkbox" checked={!h.off} disabled={!mayEdit} onChange={() => toggleHabit(h)} />
                    <span>{say(h.says)}</span>
                    <span className="soft figures">{t('trial.of', { n: h.count, of: h.of })}</span>
                  </label>
                </li>
              ))}
            </ul>
          )}
        </>
      )}
    </section>
  );
}

function Figure({ n, of }: { n: number; of: string }) {
  if (n === 0) return null;
  return (
    <span className={`tally ${of}`} aria-hidden>
      <Shape grade={of} />
      {count(n)}
    </span>
  );
}
