import { useLocalStorage } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { Cell, Habit } from '../../api/client';
import { ask, type Off, trialQuery, useAsk } from '../../api/queries';
import { count } from '../../ui/format';
import { say } from '../../words/messages';
import './TrialBoard.css';

const fits = ['whole', 'within', 'part', 'folder', 'words', 'near'] as const;

interface Props {
  delivery: number;
  ladder: Cell[];
  habits: Habit[];
  mayEdit: boolean;
}

const same = (a: Cell, b: Cell) => a.key === b.key && a.fit === b.fit;
const keyName = (key: string) => (key === 'sku' ? 'SKU' : key);
const bare = ({ key, fit }: Cell): Cell => ({ key, fit });

/** What it means to switch a habit off. */
const without: Record<string, string> = {
  prefix: 'Off: what stands before a key makes it no more than likely.',
  suffix: 'Off: what stands behind a key makes it no more than likely.',
  numbers: 'Off: a number is the place it says, also where they start at 0.',
  folder: 'Off: folders are not read for keys.',
  key: 'Off: even one word of another title contests a code.',
};

/** Every key in every fit tried alone on the delivery, with counts; the cells that are on make the ladder. */
export function TrialBoard({ delivery, ladder, habits, mayEdit }: Props) {
  const trial = useQuery(trialQuery(delivery));
  const [open, setOpen] = useLocalStorage({ key: 'ambrosa-trial', defaultValue: true, getInitialValueInEffect: false });
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
    <section className="trial" aria-label="Trial board">
      <div className="row">
        <button type="button" className="fold" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? '▾' : '▸'} Trial board
        </button>
        <span className="soft grow">
          {chosen.length === 0
            ? 'paired by every key in every fit'
            : `paired by ${chosen.length} of ${cells.length || chosen.length} cells`}
        </span>
        {mayEdit && board && board.ladder.length > 0 && (
          <button
            type="button"
            className="linkish"
            title={board.ladder.map((c) => `${keyName(c.key)} ${c.fit}`).join(', then ')}
            onClick={() => set(board.ladder)}
          >
            Take the proposed ladder
          </button>
        )}
        {mayEdit && chosen.length > 0 && (
          <button type="button" className="linkish" onClick={() => set([])}>
            Take every cell
          </button>
        )}
      </div>
      {open && (
        <>
          {trial.isPending && <p className="soft">Trying every key in every fit …</p>}
          {trial.isError && <p className="wrong">{trial.error.message}</p>}
          {board && (
            <table>
              <thead>
                <tr>
                  <td />
                  {fits.map((fit) => (
                    <th key={fit} scope="col">
                      {fit}
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
                        const says = `${cell.sure} sure, ${cell.likely} likely, ${cell.contested} contested, ${cell.unclaimed} unclaimed`;
                        return (
                          <td key={fit}>
                            <button
                              type="button"
                              className={cell.sure + cell.likely + cell.contested ? undefined : 'nothing'}
                              aria-pressed={on(cell)}
                              aria-label={`${keyName(key)} ${fit}: ${says}${step ? `; step ${step} of the proposed ladder` : ''}`}
                              title={`${says}${step ? `\nstep ${step} of the proposed ladder` : ''}`}
                              disabled={!mayEdit}
                              onClick={() => toggle(cell)}
                            >
                              <Figure shape="●" n={cell.sure} of="sure" />
                              <Figure shape="◐" n={cell.likely} of="likely" />
                              <Figure shape="◇" n={cell.contested} of="contested" />
                              {cell.sure + cell.likely + cell.contested === 0 && <span>–</span>}
                              {step > 0 && <sup>{step}</sup>}
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
              {idle.map(keyName).join(' and ')} {idle.length > 1 ? 'explain' : 'explains'} nothing here.
            </p>
          )}
          {habits.length > 0 && (
            <ul className="habits" aria-label="What this delivery does">
              {habits.map((h) => (
                <li key={h.kind}>
                  <label title={without[h.kind]}>
                    <input type="checkbox" checked={!h.off} disabled={!mayEdit} onChange={() => toggleHabit(h)} />
                    <span>{say(h.says)}</span>
                    <span className="soft figures">
                      {count(h.count)} of {count(h.of)}
                    </span>
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

function Figure({ shape, n, of }: { shape: string; n: number; of: string }) {
  if (n === 0) return null;
  return (
    <span className={`tally ${of}`} aria-hidden>
      <i>{shape}</i>
      {count(n)}
    </span>
  );
}
