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
import { when } from '../../ui/format';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/session';
import { useTitle } from '../../ui/useTitle';
import { sayAll } from '../../words/messages';
import { t } from '../../words/words';
import { ruleName } from '../pair/rules';
import { ChangeGlass } from '../plan/ChangeGlass';
import { ChangeLines, nothingInFocus } from '../plan/ChangeLines';
import { planTitle } from '../plan/PlanSheet';
import { RowReport } from '../plan/RowReport';

/** What of a run is taken back: what its lines say. */
function undoneWords(run: Run): string {
  if (run.undone === 0) return '';
  return ` · ${run.undone === run.applied ? t('ledger.undone') : t('ledger.undone_some', { n: run.undone })}`;
}

/** The ledger: every run, who, when, what changed; any of them can be taken back. */
export function Ledger() {
  const { run: chosen } = useParams({ strict: false });
  const navigate = useNavigate();
  const { all: runs, more } = useRuns();
  const id = Number(chosen ?? runs?.[0]?.id ?? 0);
  const run = useQuery(runQuery(id)).data;
  const [left, setLeft] = useState(false);
  useTitle('ledger', run && planTitle(run));
  const [at, setAt] = useState(nothingInFocus);
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">{t('ledger.runs')}</h2>
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
                    {r.state !== 'done' && ` · ${t(`state.${r.state}`)}`}
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
              {t('ledger.older')}
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
          <Empty title={t('ledger.none')}>
            <p>{t('ledger.none_what')}</p>
            <p>
              <Link to="/gather">{t('ledger.none_go')}</Link>
            </p>
          </Empty>
        ) : (
          <div className="hush">{t('ledger.reading')}</div>
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
            {t('ledger.run_by', { run: run.id, person: run.person, when: when(run.createdAt) })}
            {run.rule && ` · ${ruleName(run.rule)}`} · {t(`state.${run.state}`)}
          </p>
        </div>
        {mayEdit && working && (
          <Button disabled={run.state === 'stopping'} onClick={() => stop.mutate(run.id)}>
            {t('ledger.stop')}
          </Button>
        )}
        {mayEdit && (run.state === 'stopped' || run.state === 'failed') && run.undone === 0 && (
          <Button onClick={() => resume.mutate(run.id)}>{t('ledger.resume')}</Button>
        )}
        {run.kind === 'empty_bin' && <span className="soft">{t('plan.final')}</span>}
        {mayEdit && !working && run.kind !== 'empty_bin' && run.applied > run.undone && (
          <Button
            loading={undo.isPending}
            onClick={() =>
              undo.mutate(run.id, {
                onSuccess: (p) => void navigate({ to: '/plan/$plan', params: { plan: String(p.id) } }),
              })
            }
          >
            {t(run.undone > 0 ? 'ledger.undo_rest' : 'ledger.undo')}
          </Button>
        )}
        {run.undoneBy ? (
          <Link to="/ledger/$run" params={{ run: String(run.undoneBy) }} className="button">
            {t(run.undone === run.applied ? 'ledger.undone_by' : 'ledger.some_undone_by', {
              n: run.undone,
              run: run.undoneBy,
            })}
          </Link>
        ) : null}
      </div>
      {working && <Progress label={t('ledger.applying')} done={run.done} of={run.changes} />}
      {sayAll(run.notes) && <p className="notice">{sayAll(run.notes)}</p>}
      <p className="row">
        <span className="figures">{t('ledger.made', { count: run.applied })}</span>
        {run.leftAlone > 0 && (
          <Button size="compact-xs" aria-pressed={left} onClick={() => onLeft(!left)}>
            {t(left ? 'ledger.left_all' : 'ledger.left', { n: run.leftAlone })}
          </Button>
        )}
        {run.worksheet && !working && <RowReport plan={run.plan} />}
        {run.done < run.changes && !working && (
          <span className="soft">{t('ledger.not_reached', { count: run.changes - run.done })}</span>
        )}
      </p>
    </header>
  );
}
