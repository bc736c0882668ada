import { Button, TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import { useMemo, useState } from 'react';
import { useAskOnce } from '../../api/queries';
import { askSource, glimpseURL, type Source, sourceTouched } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { bytes, count, when } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { t } from '../../words/words';
import { browseColumns } from './browseColumns';
import type { Parts } from './parts';
import { type Below, useBrowse } from './useBrowse';
import { type TreeLine, useTree } from './useTree';

const isPicture = /\.(jpe?g|jpe|jfif|png|gif|webp|avif|hei[cf]|tiff?|bmp)$/i;

/** A drive before it is collected from: its folders with how much lies below, a search through all, and what is ticked. */
export function Browse({ source, rail, top, at, onAt, onVisit }: Parts & { source: Source }) {
  const [q, setQ] = useState('');
  const [text, setText] = useState('');
  const ask = useDebouncedCallback(setQ, 300);
  const { lines: tree, turn, error, loading } = useTree(source.id);
  const browsed = useBrowse(source.id, q);
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const lines = q ? browsed.found.map((f, i): TreeLine => ({ ...f, id: i + 1, depth: 0, open: false })) : tree;
  const focus = useFocus(lines, at);
  const line = lines[focus];
  const isTicked = (path: string) => [...ticked].some((p) => p === path || (p.endsWith('/') && path.startsWith(p)));
  const tick = (path: string) => {
    const next = new Set([...ticked].filter((p) => p !== path && !(path.endsWith('/') && p.startsWith(path))));
    if (!ticked.has(path)) next.add(path);
    setTicked(next);
  };
  const cols = browseColumns({ source: source.id, below: browsed.below, isTicked, tick, turn });
  const why = browsed.why ?? error?.message;
  return (
    <Bench
      rail={rail}
      board={
        <>
          {top}
          <div className="row visitbar">
            <TextInput
              size="xs"
              className="grow"
              aria-label={t('sources.search')}
              placeholder={t('sources.search')}
              value={text}
              onChange={(e) => {
                setText(e.currentTarget.value);
                ask(e.currentTarget.value.trim());
              }}
            />
            {!browsed.done && (
              <>
                <Progress label={t('sources.counting')} done={browsed.below.get('')?.files ?? 0} of={0} />
                <Button size="xs" onClick={browsed.stop}>
                  {t('sources.stop')}
                </Button>
              </>
            )}
          </div>
          {why && <p className="notice wrong">{why}</p>}
          {lines.length > 0 ? (
            <Board
              name="browse"
              label={t('sources.browse')}
              lines={lines}
              columns={cols}
              height={36}
              at={focus}
              onAt={(n) => onAt(lines[n]?.id)}
              autoFocus={!q}
              selected={(l) => isTicked(l.path)}
              onOpen={(n) => lines[n]?.folder && turn(lines[n].path)}
              onKey={(key) => {
                if (!line) return false;
                if (key === ' ') tick(line.path);
                else if (key === 'ArrowRight' && line.folder) turn(line.path, true);
                else if (key === 'ArrowLeft' && line.folder) turn(line.path, false);
                else return false;
                return true;
              }}
            />
          ) : (
            !loading &&
            !why && (
              <Empty
                title={t(q ? (browsed.done ? 'sources.none_found' : 'sources.searching') : 'sources.empty_drive')}
              />
            )
          )}
        </>
      }
      glass={line && <EntryGlass source={source.id} line={line} below={browsed.below.get(line.path)} />}
      foot={
        <Chosen
          onVisit={onVisit}
          source={source}
          ticked={ticked}
          lines={[...tree, ...browsed.found]}
          below={browsed.below}
        />
      }
    />
  );
}

interface ChosenProps {
  onVisit: (visit: number) => void;
  source: Source;
  ticked: ReadonlySet<string>;
  lines: { path: string; bytes: number; here?: boolean }[];
  below: Map<string, Below>;
}

/** How much is ticked, how much of it is here already, and the button that collects it. */
function Chosen({ onVisit, source, ticked, lines, below }: ChosenProps) {
  const mayEdit = useMayEdit();
  const collect = useAskOnce((paths: string[]) => askSource.collect(source.id, paths), sourceTouched);
  const sum = useMemo(() => {
    const all = { files: 0, bytes: 0, here: 0 };
    for (const path of ticked) {
      const file = path.endsWith('/') ? undefined : lines.find((l) => l.path === path);
      const of = below.get(path);
      all.files += of?.files ?? (file ? 1 : 0);
      all.bytes += of?.bytes ?? Math.max(file?.bytes ?? 0, 0);
      all.here += of?.here ?? (file?.here ? 1 : 0);
    }
    return all;
  }, [ticked, lines, below]);
  return (
    <div className="row chosen">
      <span className="grow" role="status">
        {ticked.size === 0
          ? t('sources.tick_what')
          : t('sources.ticked', { count: sum.files, size: sum.bytes, here: sum.here })}
      </span>
      {collect.error && <span className="wrong">{collect.error.message}</span>}
      {mayEdit && (
        <Button
          className="go"
          disabled={ticked.size === 0}
          loading={collect.isPending}
          onClick={() => collect.mutate([...ticked], { onSuccess: ({ id }) => onVisit(id) })}
        >
          {t('sources.collect_ticked')}
        </Button>
      )}
    </div>
  );
}

function EntryGlass({ source, line, below }: { source: number; line: TreeLine; below?: Below }) {
  return (
    <>
      {!line.folder && isPicture.test(line.path) && (
        <img key={line.path} className="glimpse" src={glimpseURL(source, line.path)} alt={line.path} />
      )}
      <p className="mono wrap">{plainly(line.path)}</p>
      <dl className="facts">
        {below && (
          <>
            <Fact name={t('sources.files')} value={count(below.files)} />
            <Fact name={t('sources.pictures')} value={count(below.pictures)} />
            <Fact name={t('sources.here')} value={count(below.here)} />
            <Fact name={t('column.size')} value={bytes(below.bytes)} />
          </>
        )}
        {!line.folder && <Fact name={t('column.size')} value={line.bytes >= 0 ? bytes(line.bytes) : '–'} />}
        {line.modified && <Fact name={t('sources.modified')} value={when(line.modified)} />}
        {line.here && <Fact name={t('sources.here')} value={t('sources.yes')} />}
      </dl>
    </>
  );
}

const Fact = ({ name, value }: { name: string; value: string }) => (
  <div>
    <dt>{name}</dt>
    <dd>{value}</dd>
  </div>
);
