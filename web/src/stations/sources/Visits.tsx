import { Button } from '@mantine/core';
import { Link } from '@tanstack/react-router';
import { lazy, Suspense, useMemo } from 'react';
import { askDelivery } from '../../api/deliveries';
import { deliveryTouched, useAsk } from '../../api/queries';
import { isWorking, type Source, type Visit } from '../../api/sources';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { DropArea } from '../../ui/DropArea';
import { readDrop } from '../../ui/dropped';
import { Empty } from '../../ui/Empty';
import { count, when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { sayAll } from '../../words/messages';
import { named, t, withWords } from '../../words/words';
import type { Parts } from './parts';
import { timeLeft } from './timeLeft';
import { useBring } from './useBring';

const LookedUp = lazy(() => withWords('pages', import('../pages/LookUp')).then((m) => ({ default: m.LookedUp })));

interface Props extends Parts {
  source: Source;
  visits?: Visit[];
  more: () => void;
  onOpen: (visit: number) => void;
}

/** What came from a source, the newest first. */
export function Visits({ source, visits, more, rail, top, at, onAt, onOpen }: Props) {
  const lines = visits ?? [];
  const focus = useFocus(lines, at);
  const cols = useMemo(() => columns(), []);
  const visit = lines[focus];
  const mayEdit = useMayEdit();
  const bring = useBring(source.id);
  return (
    <DropArea
      says={t('sources.drop_here')}
      off={!mayEdit || source.kind !== 'upload'}
      onDrop={(from) => void readDrop(from).then(bring)}
    >
      <Bench
        rail={rail}
        board={
          <>
            {top}
            {lines.length > 0 ? (
              <Board
                name="visits"
                label={t('sources.visits')}
                lines={lines}
                columns={cols}
                at={focus}
                onAt={(n) => onAt(lines[n]?.id)}
                onMore={more}
                autoFocus
                onOpen={(n) => lines[n]?.visited && onOpen(lines[n].id)}
              />
            ) : (
              visits && <Empty title={t('sources.none_came')}>{<p>{named(`sources.none_${source.kind}`)}</p>}</Empty>
            )}
          </>
        }
        glass={visit && <VisitGlass visit={visit} kind={source.kind} onOpen={onOpen} />}
      />
    </DropArea>
  );
}

interface GlassProps {
  visit: Visit;
  kind: Source['kind'];
  onOpen: (visit: number) => void;
}

function VisitGlass({ visit, kind, onOpen }: GlassProps) {
  const stop = useAsk(askDelivery.stop, deliveryTouched);
  const resume = useAsk(askDelivery.resume, deliveryTouched);
  const facts = [
    ['new', visit.new],
    ['changed', visit.changed],
    ['renamed', visit.renamed],
    ['gone', visit.gone],
    ['same', visit.same],
  ] as const;
  return (
    <div className="visitglass">
      <h2>{visit.title}</h2>
      <p className="soft">{t('sources.visit_by', { when: when(visit.createdAt), person: visit.person })}</p>
      {isWorking(visit) && (
        <>
          {visit.listed || !visit.visited ? (
            <Progress label={t('sources.fetching')} done={visit.fetched} of={visit.wanted} />
          ) : (
            <Progress label={t('sources.finding')} done={visit.found} of={0} />
          )}
          <p className="soft">
            {t('sources.fetched_bytes', { done: visit.fetchedBytes, of: visit.bytes })} {timeLeft(visit)}
          </p>
          <Button size="xs" disabled={visit.state === 'stopping'} onClick={() => stop.mutate(visit.id)}>
            {t('sources.stop')}
          </Button>
        </>
      )}
      {sayAll(visit.notes) && <p className="notice">{sayAll(visit.notes)}</p>}
      {(visit.state === 'stopped' || visit.state === 'failed') && (
        <Button size="xs" onClick={() => resume.mutate(visit.id)}>
          {t('sources.resume')}
        </Button>
      )}
      {kind === 'lookup' && (
        <Suspense>
          <LookedUp visit={visit} />
        </Suspense>
      )}
      {visit.visited && visit.state === 'ready' && kind !== 'lookup' && (
        <dl className="facts">
          {facts.map(([what, n]) => (
            <div key={what}>
              <dt>{named(`sources.${what}`)}</dt>
              <dd className="figures">{count(n)}</dd>
            </div>
          ))}
          {visit.problems > 0 && (
            <div>
              <dt>{t('sources.problems')}</dt>
              <dd className="figures">{count(visit.problems)}</dd>
            </div>
          )}
        </dl>
      )}
      <div className="row acts">
        {kind === 'pages' && (
          <Button size="compact-sm" onClick={() => onOpen(visit.id)}>
            {t('sources.see_walk')}
          </Button>
        )}
        {visit.visited && kind !== 'pages' && visit.new + visit.changed + visit.renamed + visit.gone > 0 && (
          <Button size="compact-sm" onClick={() => onOpen(visit.id)}>
            {t('sources.see_found')}
          </Button>
        )}
        {visit.lines > 0 && (
          <Link to="/gather" search={{ in: visit.id }} className="button">
            {t('sources.open_delivery')}
          </Link>
        )}
        {visit.state === 'ready' && visit.pictures > 0 && (
          <Link to="/pair/$delivery" params={{ delivery: String(visit.id) }} className="button go">
            {t('sources.pair')}
          </Link>
        )}
      </div>
    </div>
  );
}

const figure = (id: 'new' | 'changed' | 'renamed' | 'gone' | 'same'): Column<Visit> => ({
  id,
  name: named(`sources.${id}`),
  width: '68px',
  figures: true,
  wide: true,
  cell: (v) => (v.visited && v.listed ? count(v[id]) : ''),
  text: (v) => v[id],
});

const columns = (): Column<Visit>[] => [
  {
    id: 'when',
    name: t('sources.when'),
    fixed: true,
    width: 'minmax(120px, 1fr)',
    className: 'two',
    cell: (v) => (
      <>
        <span className="clip">{when(v.createdAt)}</span>
        <span className="soft clip">{v.person}</span>
      </>
    ),
    text: (v) => v.createdAt,
  },
  {
    id: 'pictures',
    name: t('sources.pictures'),
    width: '68px',
    figures: true,
    cell: (v) => count(v.pictures),
    text: (v) => v.pictures,
  },
  figure('new'),
  figure('changed'),
  figure('renamed'),
  figure('gone'),
  figure('same'),
  {
    id: 'state',
    name: t('sources.state'),
    width: '116px',
    className: 'two',
    cell: (v) => (
      <>
        <span className="clip">{named(`state.${v.state}`)}</span>
        {v.problems > 0 && <span className="clip wrong">{t('sources.with_problems', { count: v.problems })}</span>}
      </>
    ),
    text: (v) => named(`state.${v.state}`),
  },
];
