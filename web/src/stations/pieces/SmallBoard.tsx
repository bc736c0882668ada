import { useMemo, useState } from 'react';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { copy } from '../../ui/copy';
import { count } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { t } from '../../words/words';

interface Sample {
  n: number;
  grade: string;
}

const grades = ['sure', 'likely', 'contested', 'unclaimed', 'ignored'];

/** A board with as many lines as wanted, of which some are picked. */
export function SmallBoard({ lines: n }: { lines: number }) {
  const lines = useMemo(() => Array.from({ length: n }, (_, i) => ({ n: i + 1, grade: grades[i % 5] ?? 'sure' })), [n]);
  const [at, setAt] = useState(0);
  const cols = useMemo(columns, []);
  return (
    <div className="small">
      <Board
        name={`pieces-${n}`}
        label={t('pieces.board')}
        lines={lines}
        columns={cols}
        at={at}
        onAt={setAt}
        selected={(l) => l.n % 4 === 2}
        lineClass={(l) => (l.grade === 'ignored' ? 'faint' : undefined)}
        acts={(l) => [{ name: t('act.copy_name'), key: 'Ctrl C', does: () => void copy(nameOf(l)) }]}
      />
    </div>
  );
}

const nameOf = (l: Sample) => `PK-DLT-${l.n}.jpg`;

const columns = (): Column<Sample>[] => [
  {
    id: 'grade',
    name: t('column.state'),
    quiet: true,
    fixed: true,
    width: '30px',
    cell: (l) => <Grade grade={l.grade} />,
  },
  { id: 'file', name: t('column.file'), fixed: true, width: 'minmax(80px, 1fr)', className: 'mono clip', cell: nameOf },
  { id: 'n', name: t('column.place'), width: '80px', figures: true, cell: (l) => count(l.n) },
];
