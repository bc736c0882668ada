import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useAskOnce } from '../../api/queries';
import {
  askReconcile,
  askSource,
  isLooking,
  type Reconciled,
  reconciliationQuery,
  type Source,
  sourceTouched,
  useReconciled,
} from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { bytes, when } from '../../ui/format';
import { Look } from '../../ui/Look';
import { plainly } from '../../ui/Met';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { named, t } from '../../words/words';
import type { Parts } from './parts';
import { reconcileColumns } from './reconcileColumns';

const WHAT = ['only_there', 'differs', 'elsewhere', 'only_here', 'same'] as const;

/** A drive beside all pictures: only there, only here, the same, different, or here under another name. */
export function Reconcile({ source, rail, top, at, onAt, onVisit }: Parts & { source: Source }) {
  const { data: look } = useQuery(reconciliationQuery(source.id));
  const [what, setWhat] = useState<Reconciled['what']>();
  const { files, more, whole, fetchAll } = useReconciled(source.id, what, look?.at ?? undefined);
  const lines = files ?? [];
  const focus = useFocus(lines, at);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const mayEdit = useMayEdit();
  const ask = useAskOnce(askReconcile.look, sourceTouched);
  const stop = useAskOnce(askReconcile.stop, sourceTouched);
  const cols = useMemo(() => reconcileColumns(), []);
  const line = lines[focus];
  const pick = (item: string) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(item)) next.add(item);
      return next;
    });
  const looking = look && isLooking(look);
  return (
    <Bench
      rail={
        <>
          {rail}
          {look?.at && (
            <>
              <h2 className="railhead">{t('sources.beside')}</h2>
              {WHAT.map((w) => (
                <Filter
                  key={w}
                  name={named(`sources.${w}`)}
                  count={look.counts[w] ?? 0}
                  on={what === w}
                  onClick={() => setWhat(what === w ? undefined : w)}
                />
              ))}
            </>
          )}
        </>
      }
      board={
        <>
          {top}
          <div className="row visitbar">
            <h2 className="grow">{look?.at ? t('sources.looked', { when: when(look.at) }) : t('sources.reconcile')}</h2>
            {looking ? (
              <>
                <Progress label={t('sources.finding')} done={look.done} of={0} />
                <Button size="xs" disabled={look.state === 'stopping'} onClick={() => stop.mutate(source.id)}>
                  {t('sources.stop')}
                </Button>
              </>
            ) : (
              mayEdit && (
                <Button size="compact-sm" loading={ask.isPending} onClick={() => ask.mutate(source.id)}>
                  {t(look?.at ? 'sources.look_again' : 'sources.do_reconcile')}
                </Button>
              )
            )}
          </div>
          {lines.length > 0 ? (
            <Board
              name="reconcile"
              label={t('sources.reconcile')}
              lines={lines}
              columns={cols}
              at={focus}
              onAt={(n) => onAt(lines[n]?.id)}
              onMore={more}
              total={whole ? undefined : -1}
              onAll={fetchAll}
              autoFocus
              selected={(l) => picked.has(l.item)}
              onKey={(key) => {
                if (key !== ' ' || !line) return false;
                pick(line.item);
                return true;
              }}
            />
          ) : (
            look &&
            !looking && (
              <Empty title={t(look.at ? 'sources.all_same' : 'sources.reconcile')}>
                <p>{t('sources.reconcile_what')}</p>
              </Empty>
            )
          )}
        </>
      }
      glass={line && <BesideGlass line={line} />}
      foot={
        mayEdit &&
        lines.length > 0 && (
          <Next
            source={source}
            lines={lines}
            picked={picked}
            what={what}
            onDone={() => setPicked(new Set())}
            onVisit={onVisit}
          />
        )
      }
    />
  );
}

interface NextProps {
  source: Source;
  lines: Reconciled[];
  picked: ReadonlySet<string>;
  what?: Reconciled['what'];
  onDone: () => void;
  onVisit: (visit: number) => void;
}

/** What can be done with the lines that are picked, or with all that are shown of one kind. */
function Next({ source, lines, picked, what, onDone, onVisit }: NextProps) {
  const collect = useAskOnce((paths: string[]) => askSource.collect(source.id, paths), sourceTouched);
  const ignore = useAskOnce(
    ({ items, ignored }: { items: string[]; ignored: boolean }) => askReconcile.ignore(source.id, items, ignored),
    sourceTouched,
  );
  const chosen = picked.size > 0 ? lines.filter((l) => picked.has(l.item)) : what ? lines : [];
  const there = chosen.filter((l) => l.what !== 'only_here');
  const wanted = there.filter((l) => !l.ignored && l.what !== 'same');
  const ignored = there.length > 0 && there.every((l) => l.ignored);
  return (
    <div className="row chosen">
      <span className="grow" role="status">
        {chosen.length === 0 ? t('sources.pick_what') : t('sources.picked', { count: chosen.length })}
      </span>
      {(collect.error ?? ignore.error) && <span className="wrong">{(collect.error ?? ignore.error)?.message}</span>}
      <Button
        disabled={there.length === 0}
        onClick={() => ignore.mutate({ items: there.map((l) => l.item), ignored: !ignored }, { onSuccess: onDone })}
      >
        {t(ignored ? 'sources.unignore' : 'sources.ignore')}
      </Button>
      <Button
        className="go"
        disabled={wanted.length === 0}
        loading={collect.isPending}
        onClick={() =>
          collect.mutate(
            wanted.map((l) => l.path),
            { onSuccess: ({ id }) => onVisit(id) },
          )
        }
      >
        {t('sources.collect_n', { n: wanted.length })}
      </Button>
    </div>
  );
}

function BesideGlass({ line }: { line: Reconciled }) {
  return (
    <>
      <Look sha={line.here?.sha} alt={line.herePath ?? line.path} />
      <p>
        <b>{named(`sources.${line.what}`)}</b>
        {line.ignored && ` · ${t('sources.ignored')}`}
      </p>
      <dl className="facts">
        {line.what !== 'only_here' && (
          <div>
            <dt>{t('sources.there')}</dt>
            <dd className="mono wrap">{plainly(line.path)}</dd>
            <dd className="soft">{line.bytes >= 0 ? bytes(line.bytes) : '–'}</dd>
          </div>
        )}
        {line.here && (
          <div>
            <dt>{t('sources.on_this_side')}</dt>
            <dd className="mono wrap">{plainly(line.herePath ?? '')}</dd>
            <dd className="soft">
              {bytes(line.here.bytes)} · {line.here.width} × {line.here.height}
            </dd>
          </div>
        )}
      </dl>
      {line.placed ? <p className="notice">{t('sources.stands_on', { count: line.placed })}</p> : null}
    </>
  );
}
