import { Button, NumberInput, Select } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from '@tanstack/react-router';
import { useState } from 'react';
import { rulesQuery, tidy } from '../../api/tidy';
import { complain } from '../../ui/complain';
import { when } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { named, t } from '../../words/words';

const FINDINGS = ['orphans', 'twice'] as const;
const DAYS = [1, 2, 3, 4, 5, 6, 0];

/** What the clock proposes: plans that wait for a person. */
export function Rules() {
  const rules = useQuery(rulesQuery).data;
  const queries = useQueryClient();
  const mayEdit = useMayEdit();
  const [finding, setFinding] = useState<(typeof FINDINGS)[number]>('orphans');
  const [days, setDays] = useState(90);
  const [weekday, setWeekday] = useState(1);
  const does = (work: Promise<unknown>) =>
    void work.then(() => queries.invalidateQueries({ queryKey: ['tidy', 'rules'] }), complain);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return (
    <>
      <header className="top">
        <h1>{t('tidy.rules')}</h1>
        <p className="soft">{t('tidy.rules_what')}</p>
      </header>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard */}
      <div className="storage" tabIndex={0}>
        <ul className="plain rules">
          {rules?.map((r) => (
            <li key={r.id} className="row">
              <span className="grow">
                {t(`tidy.rule_${r.finding}`, { days: r.days, day: named(`tidy.weekday_${r.when.weekday}`) })}
                <br />
                <span className="soft">{t('tidy.rule_next', { when: when(r.nextAt), person: r.person })}</span>{' '}
                {r.plan && (
                  <Link to="/plan/$plan" params={{ plan: String(r.plan) }}>
                    {t('tidy.rule_plan')}
                  </Link>
                )}
              </span>
              {mayEdit && <Button onClick={() => does(tidy.removeRule(r.id))}>{t('tidy.rule_end')}</Button>}
            </li>
          ))}
        </ul>
        {rules?.length === 0 && <p className="soft">{t('tidy.no_rules')}</p>}
        {mayEdit && (
          <form
            className="row fields ruleform"
            onSubmit={(e) => {
              e.preventDefault();
              does(
                tidy.addRule({
                  finding,
                  title: t(`tidy.plan_${finding}`),
                  days: finding === 'orphans' ? days : 0,
                  when: { each: 'week', minute: 7 * 60, weekday, zone },
                }),
              );
            }}
          >
            <Select
              label={t('tidy.rule_what')}
              data={FINDINGS.map((value) => ({ value, label: t(`tidy.${value}`) }))}
              value={finding}
              allowDeselect={false}
              onChange={(f) => setFinding((f ?? 'orphans') as (typeof FINDINGS)[number])}
            />
            {finding === 'orphans' && (
              <NumberInput
                hideControls
                label={t('tidy.rule_days')}
                value={days}
                min={0}
                max={3650}
                allowDecimal={false}
                onChange={(n) => setDays(Number(n) || 0)}
              />
            )}
            <Select
              label={t('tidy.rule_each')}
              data={DAYS.map((d) => ({ value: String(d), label: named(`tidy.weekday_${d}`) }))}
              value={String(weekday)}
              allowDeselect={false}
              onChange={(d) => setWeekday(Number(d))}
            />
            <Button type="submit" className="go">
              {t('tidy.rule_add')}
            </Button>
          </form>
        )}
      </div>
    </>
  );
}
