import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useMemo } from 'react';
import { useAskOnce } from '../../api/queries';
import { askSource, useVisitFiles, type Visit, type VisitFile } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { Empty } from '../../ui/Empty';
import { FileName } from '../../ui/FileName';
import { baseName, bytes, count, when } from '../../ui/format';
import { Look } from '../../ui/Look';
import { plainly } from '../../ui/Met';
import { useMayEdit } from '../../ui/session';
import { Thumb } from '../../ui/Thumb';
import { useFocus } from '../../ui/useFocus';
import { named, t } from '../../words/words';
import type { Parts } from './parts';

interface Props extends Parts {
  visit: Visit;
  what?: VisitFile['what'];
}

/** What a visit found that is not as it was. */
export function VisitFiles({ visit, what, rail, top, at, onAt }: Props) {
  const { files, more } = useVisitFiles(visit.id, what);
  const lines = files ?? [];
  const focus = useFocus(lines, at);
  const cols = useMemo(() => columns(), []);
  const mayEdit = useMayEdit();
  const renew = useRenewal(visit.id);
  return (
    <Bench
      rail={rail}
      board={
        <>
          {top}
          <div className="row visitbar">
            <h2 className="grow">{t('sources.found_on', { when: when(visit.createdAt) })}</h2>
            {mayEdit && visit.changed > 0 && visit.state === 'ready' && (
              <Button size="compact-sm" loading={renew.isPending} onClick={() => renew.mutate([])}>
                {t('sources.renew_all')}
              </Button>
            )}
          </div>
          {lines.length > 0 ? (
            <Board
              name="visitfiles"
              label={t('sources.found')}
              lines={lines}
              columns={cols}
              at={focus}
              onAt={(n) => onAt(lines[n]?.id)}
              onMore={more}
              autoFocus
            />
          ) : (
            files && <Empty title={t('sources.all_same')} />
          )}
        </>
      }
      glass={lines[focus] && <FileGlass file={lines[focus]} visit={visit} />}
    />
  );
}

/** Plans that pictures take the place of those that they replace, and opens the plan. */
function useRenewal(visit: number) {
  const navigate = useNavigate();
  return useAskOnce(
    async (items: string[]) => {
      const { id } = await askSource.renew(visit, items);
      void navigate({ to: '/plan/$plan', params: { plan: String(id) } });
    },
    [['trail']],
  );
}

/** A file of a visit: the former picture beside the one that came, and what differs. */
function FileGlass({ file, visit }: { file: VisitFile; visit: Visit }) {
  const renew = useRenewal(visit.id);
  const mayEdit = useMayEdit();
  return (
    <>
      <p className="mono wrap">{plainly(file.path)}</p>
      <p>{named(`sources.${file.what}`)}</p>
      {file.formerly && <p className="notice">{t('sources.formerly', { path: plainly(file.formerly) })}</p>}
      {file.before && file.what !== 'renamed' && (
        <Side
          name={t(file.what === 'gone' ? 'sources.was_there' : 'sources.before')}
          of={file.before}
          path={file.path}
        />
      )}
      {file.now && <Side name={t('sources.now')} of={file.now} path={file.path} />}
      {file.what === 'changed' && file.before && file.now && <Differs file={file} />}
      {file.placed ? <p className="notice">{t('sources.placed', { count: file.placed })}</p> : null}
      {mayEdit && file.what === 'changed' && file.now && file.placed ? (
        <Button size="compact-sm" className="go" loading={renew.isPending} onClick={() => renew.mutate([file.item])}>
          {t('sources.renew_this')}
        </Button>
      ) : null}
    </>
  );
}

function Side({ name, of, path }: { name: string; of: NonNullable<VisitFile['now']>; path: string }) {
  return (
    <figure className="side">
      <figcaption>
        <b>{name}</b>{' '}
        <span className="soft figures">
          {of.width} × {of.height} · {bytes(of.bytes)}
        </span>
      </figcaption>
      <Look sha={of.sha} alt={`${name}: ${path}`} />
    </figure>
  );
}

function Differs({ file }: { file: VisitFile }) {
  const { before, now, apart } = file;
  if (!before || !now) return null;
  const larger = now.width * now.height - before.width * before.height;
  return (
    <ul className="apart">
      <li>{t(larger > 0 ? 'sources.more_pixels' : larger < 0 ? 'sources.fewer_pixels' : 'sources.same_pixels')}</li>
      {apart !== undefined && (
        <li>{t(apart <= 6 ? 'sources.looks_same' : apart <= 16 ? 'sources.looks_like' : 'sources.looks_differ')}</li>
      )}
    </ul>
  );
}

const columns = (): Column<VisitFile>[] => [
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '88px',
    cell: (f) => (
      <span className="row pairofthumbs">
        {f.what === 'changed' || f.what === 'gone' ? <Thumb sha={f.before?.sha} size={36} /> : null}
        {f.what !== 'gone' && <Thumb sha={f.now?.sha} size={36} />}
      </span>
    ),
  },
  {
    id: 'file',
    name: t('column.file'),
    fixed: true,
    width: 'minmax(200px, 1fr)',
    className: 'two',
    cell: (f) => {
      const name = baseName(f.path);
      return (
        <>
          <FileName name={name} />
          {f.path !== name && <span className="soft clip">{plainly(f.path.slice(0, -name.length))}</span>}
        </>
      );
    },
    text: (f) => f.path,
  },
  {
    id: 'what',
    name: t('sources.what'),
    width: '84px',
    cell: (f) => named(`sources.${f.what}`),
    text: (f) => named(`sources.${f.what}`),
  },
  {
    id: 'pixels',
    name: t('column.pixels'),
    width: '110px',
    figures: true,
    className: 'two',
    cell: (f) => (
      <>
        <span>{size(f.what === 'gone' ? f.before : f.now)}</span>
        {f.what === 'changed' && <span className="soft">{size(f.before)}</span>}
      </>
    ),
    text: (f) => size(f.now),
  },
  {
    id: 'placed',
    name: t('sources.stands'),
    width: '84px',
    figures: true,
    cell: (f) => (f.placed ? count(f.placed) : ''),
    text: (f) => f.placed,
  },
  {
    id: 'modified',
    name: t('sources.modified'),
    width: '120px',
    wide: true,
    cell: (f) => (f.modified ? when(f.modified) : ''),
    text: (f) => f.modified,
  },
];

const size = (of: VisitFile['now']) => (of ? `${of.width} × ${of.height}` : '');
