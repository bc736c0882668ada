import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams } from '@tanstack/react-router';
import { useState } from 'react';
import type { Run } from '../../api/client';
import { useRuns } from '../../api/pages';
import { ask, runQuery, useAskOnce } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { count, plural, when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/Shell';
import { sayAll } from '../../words/messages';
import { ruleName } from '../pair/rules';
import { ChangeGlass } from '../plan/ChangeGlass';
import { ChangeLines, nothingInFocus } from '../plan/ChangeLines';
import { planTitle } from '../plan/PlanSheet';

export const runState: Record<Run['state'], string> = {
  waiting: 'queued',
  working: 'running',
  stopping: 'stopping',
  stopped: 'stopped',
  done: 'done',
  failed: 'failed',
};

/** What of a run is taken back: what its lines say. */
function undoneWords(run: Run): string {
  if (run.undone === 0) return '';
  return run.undone === run.applied ? ' · undone' : ` · ${count(run.undone)} undone`;
}

/** The ledger: every run, who, when, what changed; any of them can be taken back. */
export function Ledger() {
  const { run: chosen } = useParams({ strict: false });
  const navigate = useNavigate();
  const { all: runs, more } = useRuns();
  const id = Number(chosen ?? runs?.[0]?.id ?? 0);
  const run = useQuery(runQuery(id)).data;
  const [left, setLeft] = useState(false);
  const [at, setAt] = useState(nothingInFocus);
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">Runs</h2>
          {runs?.map((r) => (
            <Filter
              key={r.id}
              on={r.id === id}
              count={r.applied}
              name={
                <>
                  {planTitle(r)}
                  <small>
                    {when(r.createdAt)} · {r.person}
                    {r.state !== 'done' && ` · ${runState[r.state]}`}
                    {undoneWords(r)}
                  </small>
                </>
              }
              onClick={() => {
                setLeft(false);
                void navigate({ to: '/ledger/$run', params: { run: String(r.id) } });
              }}
            />
          ))}
          {more && (
            <Button size="compact-xs" onClick={more}>
              Show older runs
            </Button>
          )}
        </>
      }
      board={
        run ? (
          <>
            <RunTop run={run} left={left} onLeft={setLeft} />
            <ChangeLines key={`${run.plan}-${left}`} plan={run.plan} total={run.changes} left={left} onAt={setAt} />
          </>
        ) : runs && !id ? (
          <Empty title="Nothing has been changed yet.">
            <p>Every plan that is applied stands here, with each change before and after, and can be undone.</p>
            <p>
              <Link to="/gather">Begin with gathering pictures</Link>
            </p>
          </Empty>
        ) : (
          <div className="hush">Reading the ledger …</div>
        )
      }
      glass={<ChangeGlass {...(at.plan === run?.plan ? at : nothingInFocus)} />}
    />
  );
}

function RunTop({ run, left, onLeft }: { run: Run; left: boolean; onLeft: (on: boolean) => void }) {
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const touched = [['run', run.id], ['runs'], ['trail']];
  const stop = useAskOnce(ask.stopRun, touched);
  const resume = useAskOnce(ask.resumeRun, touched);
  const undo = useAskOnce(ask.undo, []);
  const working = run.state === 'waiting' || run.state === 'working' || run.state === 'stopping';
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{planTitle(run)}</h1>
          <p className="soft">
            Run {run.id} by {run.person}, {when(run.createdAt)}
            {run.rule && ` · ${ruleName(run.rule)}`} · {runState[run.state]}
          </p>
        </div>
        {mayEdit && working && (
          <Button disabled={run.state === 'stopping'} onClick={() => stop.mutate(run.id)}>
            Stop
          </Button>
        )}
        {mayEdit && (run.state === 'stopped' || run.state === 'failed') && run.undone === 0 && (
          <Button onClick={() => resume.mutate(run.id)}>Resume</Button>
        )}
        {mayEdit && !working && run.applied > run.undone && (
          <Button
            loading={undo.isPending}
            onClick={() =>
              undo.mutate(run.id, {
                onSuccess: (p) => void navigate({ to: '/plan/$plan', params: { plan: String(p.id) } }),
              })
            }
          >
            {run.undone > 0 ? 'Undo the rest …' : 'Undo …'}
          </Button>
        )}
        {run.undoneBy ? (
          <Link to="/ledger/$run" params={{ run: String(run.undoneBy) }} className="button">
            {run.undone === run.applied ? 'Undone' : `${count(run.undone)} undone`} by run {run.undoneBy}
          </Link>
        ) : null}
      </div>
      {working && <Progress label="Applying" done={run.done} of={run.changes} />}
      {sayAll(run.notes) && <p className="notice">{sayAll(run.notes)}</p>}
      <p className="row">
        <span className="figures">{plural(run.applied, 'change')} made</span>
        {run.leftAlone > 0 && (
          <Button size="compact-xs" aria-pressed={left} onClick={() => onLeft(!left)}>
            ◇ {count(run.leftAlone)} left alone{left ? ', show all' : ''}
          </Button>
        )}
        {run.done < run.changes && !working && (
          <span className="soft">{plural(run.changes - run.done, 'change')} not reached</span>
        )}
      </p>
    </header>
  );
}
