import type { Column } from '../../ui/columns';
import { baseName, bytes, count, when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { t } from '../../words/words';
import type { Below } from './useBrowse';
import type { TreeLine } from './useTree';

interface Hands {
  source: number;
  below: Map<string, Below>;
  isTicked: (path: string) => boolean;
  tick: (path: string) => void;
  turn: (path: string) => void;
}

/** What is seen of a file or folder of a drive. */
export const browseColumns = ({ below, isTicked, tick, turn }: Hands): Column<TreeLine>[] => [
  {
    id: 'tick',
    name: t('sources.tick'),
    quiet: true,
    fixed: true,
    width: '36px',
    cell: (l) => (
      <input
        type="checkbox"
        tabIndex={-1}
        aria-label={t('sources.tick_path', { path: l.path })}
        checked={isTicked(l.path)}
        onChange={() => tick(l.path)}
      />
    ),
  },
  {
    id: 'name',
    name: t('column.file'),
    fixed: true,
    width: 'minmax(160px, 1fr)',
    cell: (l) => (
      <span className="treename" style={{ paddingLeft: l.depth * 18 }}>
        {l.folder ? (
          <button
            type="button"
            tabIndex={-1}
            className="turn"
            aria-label={t(l.open ? 'sources.fold' : 'sources.unfold')}
            aria-expanded={l.open}
            onClick={() => turn(l.path)}
          >
            {l.open ? '–' : '+'}
          </button>
        ) : (
          <span className="turn" />
        )}
        <span className={l.folder ? 'clip folder' : 'clip mono'}>
          {plainly(baseName(l.folder ? l.path.slice(0, -1) : l.path))}
        </span>
      </span>
    ),
    text: (l) => l.path,
  },
  {
    id: 'pictures',
    name: t('sources.pictures'),
    width: '90px',
    figures: true,
    cell: (l) => (l.folder ? count(below.get(l.path)?.pictures ?? 0) : ''),
  },
  {
    id: 'here',
    name: t('sources.here'),
    width: '96px',
    figures: true,
    cell: (l) => (l.folder ? count(below.get(l.path)?.here ?? 0) : l.here ? t('sources.yes') : ''),
  },
  {
    id: 'size',
    name: t('column.size'),
    width: '84px',
    figures: true,
    cell: (l) => (l.folder ? bytes(below.get(l.path)?.bytes ?? 0) : l.bytes >= 0 ? bytes(l.bytes) : ''),
    text: (l) => l.bytes,
  },
  {
    id: 'modified',
    name: t('sources.modified'),
    width: '150px',
    wide: true,
    cell: (l) => (l.modified ? when(l.modified) : ''),
    text: (l) => l.modified,
  },
];
