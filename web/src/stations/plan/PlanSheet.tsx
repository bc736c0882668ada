import { Button, Checkbox } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useParams } from '@tanstack/react-router';
import { useState } from 'react';
import type { Plan } from '../../api/client';
import { ask, planQuery, type Rule, useAskOnce } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Empty } from '../../ui/Empty';
import { bytes, count, when } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { useKeys } from '../../ui/useKeys';
import { useTitle } from '../../ui/useTitle';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import { ruleName } from '../pair/rules';
import { ChangeGlass } from './ChangeGlass';
import { ChangeLines, nothingInFocus } from './ChangeLines';
import { ConfirmApply } from './ConfirmApply';
import { FillTexts } from './FillTexts';
import { RowReport } from './RowReport';
import './PlanSheet.css';

/** What a plan or run is called: of an undo, what it takes back. */
export const planTitle = (p: { title: string; undoes?: number }) =>
  p.undoes ? t('plan.undo_of', { run: p.undoes, title: p.title }) : p.title;

/** A plan before it is applied: exactly what would change. Nothing is written yet. */
export function PlanSheet() {
  const id = Number(useParams({ from: '/plan/$plan' }).plan);
  const plan = useQuery(planQuery(id));
  const navigate = useNavigate();
  const mayEdit = useMayEdit();
  const [at, setAt] = useState(nothingInFocus);
  const [mail, setMail] = useState(false);
  const apply = useAskOnce(() => ask.apply(id, mail || undefined), [['plan', id], ['runs'], ['trail']]);
  const p = plan.data;
  const changes = p ? p.changes - (p.held ?? 0) : 0;
  const mayApply = mayEdit && p && !p.run && changes > 0;
  const [confirming, setConfirming] = useState(false);
  useKeys([['mod+Enter', () => mayApply && setConfirming(true), { preventDefault: true }]]);
  useTitle('plan', p && planTitle(p));
  if (plan.isError)
    return <Bench rail={null} glass={null} board={<Empty title={t('plan.cant')}>{plan.error.message}</Empty>} />;
  if (!p) return <div className="hush">{t('plan.reading')}</div>;
  const leftOut = p.problems.filter((one) => !one.kept).length;
  const run = () =>
    apply.mutate(undefined, {
      onSuccess: (r) => void navigate({ to: '/ledger/$run', params: { run: String(r.id) } }),
    });
  return (
    <Bench
      rail={
        <>
          <h2 className="railhead">{t('station.plan')}</h2>
          <dl className="facts">
            <div>
              <dt>{t(['pairing', 'hand'].includes(p.kind) ? 'plan.owners_to' : 'plan.lines_to')}</dt>
              <dd className="figures">{count(p.changes)}</dd>
            </div>
            {p.rule && (
              <div>
                <dt>{t('plan.rule')}</dt>
                <dd>{ruleName(p.rule)}</dd>
              </div>
            )}
            {p.counts.gone ? (
              <div>
                <dt>{t('plan.taken_off')}</dt>
                <dd className="figures">{count(p.counts.gone)}</dd>
              </div>
            ) : null}
            {p.counts.binned || p.counts.deleted ? (
              <>
                <div>
                  <dt>{t(p.counts.deleted ? 'plan.deleted' : 'plan.binned')}</dt>
                  <dd className="figures">{count(p.counts.deleted ?? p.counts.binned ?? 0)}</dd>
                </div>
                <div>
                  <dt>{t('plan.won')}</dt>
                  <dd className="figures">{bytes(p.counts.bytes ?? 0)}</dd>
                </div>
              </>
            ) : null}
            {p.counts.texts || p.counts.reworded ? (
              <div>
                <dt>{t(p.counts.reworded ? 'plan.reworded' : 'plan.texts_on')}</dt>
                <dd className="figures">{count(p.counts.reworded ?? p.counts.texts ?? 0)}</dd>
              </div>
            ) : null}
            {p.held ? (
              <div>
                <dt>{t('plan.held')}</dt>
                <dd className="figures wrong">{count(p.held)}</dd>
              </div>
            ) : null}
            {leftOut > 0 && (
              <div>
                <dt>{t('plan.left_out')}</dt>
                <dd className="figures wrong">{count(leftOut)}</dd>
              </div>
            )}
            <div>
              <dt>{t('plan.made')}</dt>
              <dd>{t('plan.made_by', { when: when(p.createdAt), person: p.person })}</dd>
            </div>
          </dl>
          {mayEdit && !p.run && <FillTexts plan={id} counts={p.counts} />}
          {p.delivery && (
            <Link to="/pair/$delivery" params={{ delivery: String(p.delivery) }}>
              {t('plan.back')}
            </Link>
          )}
          {p.worksheet && (
            <Link to="/tables/$table" params={{ table: String(p.worksheet) }}>
              {t('plan.table')}
            </Link>
          )}
          {p.worksheet && <RowReport plan={id} />}
        </>
      }
      board={
        <>
          <header className="top">
            <h1>{planTitle(p)}</h1>
            <p className="soft">{t(p.run ? 'plan.was_applied' : 'plan.nothing_yet')}</p>
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
              ? t('plan.undo_note')
              : p.held
                ? t('plan.held_note', { count: p.held })
                : t('plan.can_undo')}
          </span>
          {p.run ? (
            <Link to="/ledger/$run" params={{ run: String(p.run) }} className="button">
              {t('plan.open_run')}
            </Link>
          ) : (
            mayEdit && (
              <>
                <Checkbox
                  size="xs"
                  label={t('plan.mail')}
                  checked={mail}
                  onChange={(e) => setMail(e.currentTarget.checked)}
                />
                <Button
                  size="compact-sm"
                  className="go"
                  onClick={run}
                  loading={apply.isPending}
                  disabled={!mayApply}
                  data-autofocus
                  title="Ctrl Enter"
                  aria-keyshortcuts="Control+Enter"
                >
                  {t('plan.apply', { count: changes })}
                </Button>
              </>
            )
          )}
          {confirming && (
            <ConfirmApply
              changes={changes}
              onApply={() => {
                setConfirming(false);
                run();
              }}
              onClose={() => setConfirming(false)}
            />
          )}
        </>
      }
    />
  );
}

/** Says that a plan is out of date, and makes it again. */
function Stale({ delivery, rule, mayEdit }: { delivery: number; rule: Rule; mayEdit: boolean }) {
  const navigate = useNavigate();
  const plan = useAskOnce(() => ask.plan(delivery, rule), []);
  const again = () =>
    plan.mutate(undefined, {
      onSuccess: ({ id }) => void navigate({ to: '/plan/$plan', params: { plan: String(id) } }),
    });
  return (
    <div className="notice row">
      <span className="grow">{t('plan.stale')}</span>
      {mayEdit && (
        <Button size="xs" onClick={again} loading={plan.isPending}>
          {t('plan.again')}
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
        {leftOut > 0 ? t('plan.rows_out', { count: leftOut }) : t('plan.rows_look', { count: problems.length })}
      </summary>
      <ul className="plain">
        {problems.map((p) => (
          <li key={`${p.line}-${p.column}`}>
            <span className="figures">{t('plan.line', { line: p.line })}</span> {p.column && <b>{p.column}</b>} {say(p)}
            {p.kept && leftOut > 0 ? ` ${t('plan.row_kept')}` : ''}
          </li>
        ))}
      </ul>
    </details>
  );
}
