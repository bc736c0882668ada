import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams } from '@tanstack/react-router';
import { useState } from 'react';
import type { Plan } from '../../api/client';
import { ask, planQuery, type Rule, useAskOnce } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { count, plural, when } from '../../ui/format';
import { useMayEdit } from '../../ui/Shell';
import { say } from '../../words/messages';
import { ruleName } from '../pair/rules';
import { ChangeGlass } from './ChangeGlass';
import { ChangeLines, nothingInFocus } from './ChangeLines';
import './PlanSheet.css';

/** What a plan or run is called: of an undo, what it takes back. */
export const planTitle = (p: { title: string; undoes?: number }) =>
  p.undoes ? `Undo of run ${p.undoes}: ${p.title}` : p.title;

/** A plan before it is applied: exactly what would change. Nothing is written yet. */
export function PlanSheet() {
  const id = Number(useParams({ from: '/plan/$plan' }).plan);
  const plan = useQuery(planQuery(id));
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const [at, setAt] = useState(nothingInFocus);
  const apply = useAskOnce(() => ask.apply(id), [['plan', id], ['runs'], ['trail']]);
  const p = plan.data;
  if (plan.isError)
    return (
      <Bench rail={null} glass={null} board={<Empty title="This plan can’t be shown.">{plan.error.message}</Empty>} />
    );
  if (!p) return <div className="hush">Reading the plan …</div>;
  const leftOut = p.problems.filter((one) => !one.kept).length;
  const run = () =>
    apply.mutate(undefined, {
      onSuccess: (r) => void navigate({ to: '/ledger/$run', params: { run: String(r.id) } }),
    });
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">Plan</h2>
          <dl className="facts">
            <div>
              <dt>{p.kind === 'catalogue' ? 'Lines' : 'Owners'} to change</dt>
              <dd className="figures">{count(p.changes)}</dd>
            </div>
            {p.rule && (
              <div>
                <dt>House rule</dt>
                <dd>{ruleName(p.rule)}</dd>
              </div>
            )}
            {p.counts.gone ? (
              <div>
                <dt>Pictures taken off</dt>
                <dd className="figures">{count(p.counts.gone)}</dd>
              </div>
            ) : null}
            {p.held ? (
              <div>
                <dt>Lines held</dt>
                <dd className="figures wrong">{count(p.held)}</dd>
              </div>
            ) : null}
            {leftOut > 0 && (
              <div>
                <dt>Rows left out</dt>
                <dd className="figures wrong">{count(leftOut)}</dd>
              </div>
            )}
            <div>
              <dt>Made</dt>
              <dd>
                {when(p.createdAt)}, by {p.person}
              </dd>
            </div>
          </dl>
          {p.delivery && (
            <Link to="/pair/$delivery" params={{ delivery: String(p.delivery) }}>
              Back to the lines
            </Link>
          )}
        </>
      }
      board={
        <>
          <header className="top">
            <h1>{planTitle(p)}</h1>
            <p className="soft">
              {p.run ? 'This plan was applied.' : 'This is what would change. Nothing is written yet.'}
            </p>
          </header>
          {p.stale && p.delivery && <Stale delivery={p.delivery} rule={p.rule as Rule} mayEdit={mayEdit} />}
          {p.problems.length > 0 && <Problems problems={p.problems} leftOut={leftOut} />}
          <ChangeLines plan={id} total={p.changes} left={false} onAt={setAt} />
        </>
      }
      glass={<ChangeGlass {...(at.plan === id ? at : nothingInFocus)} open={!p.run} />}
      foot={
        <>
          <span className="grow">
            {p.kind === 'undo'
              ? 'Lines that changed since are named and left as they are.'
              : p.held
                ? `${plural(p.held, 'line is', 'lines are')} held: not changed unless you release them. The rest can be undone from the ledger.`
                : 'It can be undone from the ledger.'}
          </span>
          {p.run ? (
            <Link to="/ledger/$run" params={{ run: String(p.run) }} className="button">
              Open run
            </Link>
          ) : (
            mayEdit && (
              <Button
                size="compact-sm"
                className="go"
                onClick={run}
                loading={apply.isPending}
                disabled={p.changes === (p.held ?? 0)}
                data-autofocus
              >
                Apply {plural(p.changes - (p.held ?? 0), 'change')}
              </Button>
            )
          )}
        </>
      }
    />
  );
}

/** Says that a plan is out of date, and makes it anew. */
function Stale({ delivery, rule, mayEdit }: { delivery: number; rule: Rule; mayEdit: boolean }) {
  const navigate = useNavigate();
  const plan = useAskOnce(() => ask.plan(delivery, rule), []);
  const again = () =>
    plan.mutate(undefined, {
      onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }),
    });
  return (
    <div className="notice row">
      <span className="grow">
        Decisions or the catalogue have changed since this plan was made. It does not hold what was decided after it.
      </span>
      {mayEdit && (
        <Button size="xs" onClick={again} loading={plan.isPending}>
          Make the plan again
        </Button>
      )}
    </div>
  );
}

type Problem = Plan['problems'][number];

function Problems({ problems, leftOut }: { problems: Problem[]; leftOut: number }) {
  return (
    <details className="problems" open={problems.length < 6}>
      <summary>
        {leftOut > 0
          ? `${plural(leftOut, 'row is', 'rows are')} left out; the others go in`
          : `${plural(problems.length, 'row', 'rows')} to look at; all of them go in`}
      </summary>
      <ul className="plain">
        {problems.map((p) => (
          <li key={`${p.line}-${p.column}`}>
            <span className="figures">line {p.line}</span> {p.column && <b>{p.column}</b>} {say(p)}
            {p.kept && leftOut > 0 ? ' The row goes in.' : ''}
          </li>
        ))}
      </ul>
    </details>
  );
}
