import { useEffect, useMemo, useState } from 'react';
import { type Channel, type ThereFile, useThere } from '../../api/channels';
import { fetchAll } from '../../api/pages';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { bytes, count, when } from '../../ui/format';
import { named, t } from '../../words/words';
import type { FileFocus } from './Publish';

const WHAT = ['only_there', 'only_here', 'differs', 'same'] as const;

/** A channel's folder, as it was looked at last, beside what should be there. */
export function There({ channel, onFocus }: { channel: Channel; onFocus: (f: FileFocus) => void }) {
  const [what, setWhat] = useState<ThereFile['what']>();
  const pages = useThere(channel.id, what);
  const lines = useMemo(() => pages.data?.pages.flatMap((p) => p.files) ?? [], [pages.data]);
  const [at, setAt] = useState(0);
  const columns = useMemo(() => thereColumns(), []);
  const counts = pages.data?.pages[0]?.counts;
  const line = lines[at];
  useEffect(
    () => onFocus(line ? { path: line.path, sha: line.sha, says: [named(`publish.there_${line.what}`)] } : {}),
    [line, onFocus],
  );
  return (
    <>
      <div className="row therebar">
        {WHAT.map((w) => (
          <button
            key={w}
            type="button"
            className="linkish"
            aria-pressed={what === w}
            onClick={() => {
              setWhat(what === w ? undefined : w);
              setAt(0);
            }}
          >
            {named(`publish.there_${w}`)} <b className="figures">{count(counts?.[w] ?? 0)}</b>
          </button>
        ))}
      </div>
      {!pages.data && <div className="hush">{t('publish.reading')}</div>}
      {pages.data && lines.length === 0 && (
        <Empty title={t('publish.there_none')}>
          <p>{t('publish.there_none_what')}</p>
        </Empty>
      )}
      {lines.length > 0 && (
        <Board
          name="there"
          label={t('publish.view_there')}
          lines={lines}
          columns={columns}
          at={at}
          onAt={setAt}
          total={pages.hasNextPage ? -1 : lines.length}
          onMore={() => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage()}
          onAll={() => fetchAll(pages)}
          autoFocus
        />
      )}
    </>
  );
}

const size = (n: number) => (n < 0 ? '–' : bytes(n));

const thereColumns = (): Column<ThereFile>[] => [
  {
    id: 'path',
    name: t('publish.path'),
    fixed: true,
    width: 'minmax(200px, 2fr)',
    className: 'mono clip',
    cell: (f) => f.path,
    text: (f) => f.path,
  },
  {
    id: 'what',
    name: t('publish.what'),
    width: 'minmax(120px, 1fr)',
    className: 'clip',
    cell: (f) => named(`publish.there_${f.what}`),
    text: (f) => f.what,
  },
  {
    id: 'here',
    name: t('publish.sent'),
    width: '90px',
    className: 'figures',
    cell: (f) => size(f.here),
    text: (f) => String(f.here),
  },
  {
    id: 'there',
    name: t('publish.lies'),
    width: '90px',
    className: 'figures',
    cell: (f) => size(f.there),
    text: (f) => String(f.there),
  },
  {
    id: 'modified',
    name: t('publish.modified'),
    width: 'minmax(120px, 1fr)',
    className: 'clip',
    wide: true,
    cell: (f) => (f.modified ? when(f.modified) : '–'),
    text: (f) => f.modified ?? '',
  },
];
