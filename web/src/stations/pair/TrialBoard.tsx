import { useLocalStorage } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import type { Cell } from '../../api/client';
import { ask, trialQuery, useAsk } from '../../api/queries';
import { count } from '../../ui/format';

const fits = ['whole', 'within', 'part', 'folder', 'words', 'near'] as const;
const keys = ['sku', 'barcode', 'title'] as const;

interface Props {
  delivery: number;
  ladder: Cell[];
  mayEdit: boolean;
}

const same = (a: Cell, b: Cell) => a.key === b.key && a.fit === b.fit;

/** Every key in every fit tried alone on the delivery, with counts; the cells that are on make the ladder. */
export function TrialBoard({ delivery, ladder, mayEdit }: Props) {
  const trial = useQuery(trialQuery(delivery));
  const [open, setOpen] = useLocalStorage({ key: 'ambrosa-trial', defaultValue: true, getInitialValueInEffect: false });
  const set = useAsk((cells: Cell[]) => ask.setLadder(delivery, cells), [['pairing', delivery]]);
  const board = trial.data;
  const cells = board?.cells ?? [];
  const chosen = set.isPending ? (set.variables ?? []) : ladder;
  const on = (cell: Cell) => chosen.length === 0 || chosen.some((c) => same(c, cell));
  const toggle = (cell: Cell) => {
    const now = cells.filter((c) => on(c)).map(({ key, fit }) => ({ key, fit }));
    const next = on(cell) ? now.filter((c) => !same(c, cell)) : [...now, cell];
    if (next.length) set.mutate(next.length === cells.length ? [] : next);
  };
  return (
    <section className="trial" aria-label="Trial board">
      <div className="row">
        <button type="button" className="fold" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? '▾' : '▸'} Trial board
        </button>
        <span className="soft grow">
          {chosen.length === 0
            ? 'paired by every key in every fit'
            : `paired by ${chosen.length} of ${cells.length} cells`}
        </span>
        {mayEdit && board && board.ladder.length > 0 && (
          <button type="button" className="linkish" onClick={() => set.mutate(board.ladder)}>
            Take the proposed
          </button>
        )}
        {mayEdit && chosen.length > 0 && (
          <button type="button" className="linkish" onClick={() => set.mutate([])}>
            Take every cell
          </button>
        )}
      </div>
      {open && !board && <p className="soft">Trying every key in every fit …</p>}
      {open && board && (
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
            {keys.map((key) => (
              <tr key={key}>
                <th scope="row">{key === 'sku' ? 'SKU' : key}</th>
                {fits.map((fit) => {
                  const cell = cells.find((c) => c.key === key && c.fit === fit);
                  if (!cell) return <td key={fit} />;
                  const all = cell.sure + cell.likely + cell.contested + cell.unclaimed || 1;
                  const says = `${cell.sure} sure, ${cell.likely} likely, ${cell.contested} contested, ${cell.unclaimed} unclaimed`;
                  return (
                    <td key={fit}>
                      <button
                        type="button"
                        className={cell.sure + cell.likely + cell.contested ? undefined : 'nothing'}
                        aria-pressed={on(cell)}
                        aria-label={`${key} ${fit}: ${says}`}
                        title={says}
                        disabled={!mayEdit}
                        onClick={() => toggle({ key: cell.key, fit: cell.fit })}
                      >
                        <span className="figures">{count(cell.sure + cell.likely)}</span>
                        <span className="share" aria-hidden>
                          <i className="sure" style={{ width: `${(100 * cell.sure) / all}%` }} />
                          <i className="likely" style={{ width: `${(100 * cell.likely) / all}%` }} />
                          <i className="contested" style={{ width: `${(100 * cell.contested) / all}%` }} />
                        </span>
                      </button>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
