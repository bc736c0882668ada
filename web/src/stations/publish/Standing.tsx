import { useEffect, useMemo, useState } from 'react';
import { type Channel, type ChannelFile, useStanding } from '../../api/channels';
import { fetchAll } from '../../api/pages';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { bytes, when } from '../../ui/format';
import { Thumb } from '../../ui/Thumb';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import type { FileFocus } from './Publish';

/** What stands in a channel now. */
export function Standing({ channel, onFocus }: { channel: Channel; onFocus: (f: FileFocus) => void }) {
  const pages = useStanding(channel.id);
  const lines = useMemo(() => pages.data?.pages.flat() ?? [], [pages.data]);
  const [at, setAt] = useState(0);
  const columns = useMemo(() => standingColumns(), []);
  const line = lines[at];
  useEffect(() => onFocus(line ? { path: line.path, sha: line.sha, says: saysOf(line) } : {}), [line, onFocus]);
  if (!pages.data) return <div className="hush">{t('publish.reading')}</div>;
  if (lines.length === 0)
    return (
      <Empty title={t('publish.stands_none')}>
        <p>{t('publish.stands_none_what')}</p>
      </Empty>
    );
  return (
    <Board
      name="standing"
      label={t('publish.view_stands')}
      lines={lines}
      columns={columns}
      at={at}
      onAt={setAt}
      total={pages.hasNextPage ? channel.files : lines.length}
      onMore={() => pages.hasNextPage && !pages.isFetching && void pages.fetchNextPage()}
      onAll={() => fetchAll(pages)}
      autoFocus
    />
  );
}

const saysOf = (f: ChannelFile) =>
  [
    [f.sku, f.title].filter(Boolean).join(' · '),
    [f.size, bytes(f.bytes)].filter(Boolean).join(' · '),
    f.putAt ? t('publish.put_at', { when: when(f.putAt) }) : '',
    f.let ? t('publish.let', { why: say({ code: f.let, data: {} }) }) : '',
  ].filter(Boolean);

const standingColumns = (): Column<ChannelFile>[] => [
  {
    id: 'picture',
    name: t('publish.picture'),
    width: '52px',
    cell: (f) => <Thumb sha={f.sha} size={36} />,
    text: (f) => f.sha ?? '',
  },
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
    id: 'sku',
    name: t('column.sku'),
    width: 'minmax(110px, 1fr)',
    className: 'mono clip',
    wide: true,
    cell: (f) => f.sku || '–',
    text: (f) => f.sku ?? '',
  },
  {
    id: 'bytes',
    name: t('publish.bytes'),
    width: '90px',
    className: 'figures',
    cell: (f) => bytes(f.bytes),
    text: (f) => String(f.bytes),
  },
];
