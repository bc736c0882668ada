import type { Reconciled } from '../../api/sources';
import type { Column } from '../../ui/columns';
import { FileName } from '../../ui/FileName';
import { baseName, bytes, count } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { named, t } from '../../words/words';

/** What is seen of a file beside the pictures that are here. */
export const reconcileColumns = (): Column<Reconciled>[] => [
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '44px',
    cell: (l) => <Thumb sha={l.here?.sha} size={36} />,
  },
  {
    id: 'file',
    name: t('column.file'),
    fixed: true,
    width: 'minmax(180px, 1fr)',
    className: 'two',
    cell: (l) => {
      const name = baseName(l.path);
      return (
        <>
          <FileName name={name} />
          {l.path !== name && <span className="soft clip">{plainly(l.path.slice(0, -name.length))}</span>}
        </>
      );
    },
    text: (l) => l.path,
  },
  {
    id: 'here',
    name: t('sources.on_this_side'),
    width: 'minmax(120px, 0.8fr)',
    wide: true,
    className: 'two',
    cell: (l) => (
      <span className="clip mono">
        {l.herePath && baseName(l.herePath) !== baseName(l.path) ? plainly(baseName(l.herePath)) : ''}
      </span>
    ),
    text: (l) => l.herePath,
  },
  {
    id: 'size',
    name: t('column.size'),
    width: '84px',
    figures: true,
    cell: (l) => (l.bytes >= 0 ? bytes(l.bytes) : ''),
    text: (l) => l.bytes,
  },
  {
    id: 'placed',
    name: t('sources.stands'),
    width: '84px',
    figures: true,
    cell: (l) => (l.placed ? count(l.placed) : ''),
    text: (l) => l.placed,
  },
  {
    id: 'what',
    name: t('sources.what'),
    width: '150px',
    className: 'two',
    cell: (l) => (
      <>
        <span className="clip">{named(`sources.${l.what}`)}</span>
        {l.ignored && <span className="soft">{t('sources.ignored')}</span>}
      </>
    ),
    text: (l) => [named(`sources.${l.what}`), l.ignored && t('sources.ignored')].filter(Boolean).join(', '),
  },
];
