import { Button } from '@mantine/core';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { askHand, type HandPlan } from '../../api/hand';
import { ask, useAskOnce } from '../../api/queries';
import { say } from '../../words/messages';
import { t } from '../../words/words';
import { discard, edits, planned, takeBack, useDraft } from './draft';

const touched = [['pictured'], ['products'], ['card'], ['categories'], ['runs'], ['trail']];

/** The foot: what is changed by hand and not yet written, and the ways to the plan. */
export function HandBar({ at, of, mayEdit }: { at: number; of: number; mayEdit: boolean }) {
  const draft = useDraft();
  const navigate = useNavigate();
  const [wrong, setWrong] = useState<HandPlan['wrong']>();
  const plan = useAskOnce(async (apply: boolean) => {
    const made = await askHand.plan(edits(draft));
    if (!made.plan) return { wrong: made.wrong };
    planned();
    return apply ? { run: (await ask.apply(made.plan)).id } : { plan: made.plan };
  }, touched);
  const n = Object.keys(draft).length;
  const go = (apply: boolean) =>
    plan.mutate(apply, {
      onSuccess: (made) => {
        setWrong(made.wrong);
        if (made.plan) void navigate({ to: '/plan/$plan', params: { plan: String(made.plan) } });
        if (made.run) void navigate({ to: '/ledger/$run', params: { run: String(made.run) } });
      },
    });
  return (
    <>
      {of > 0 && <span className="figures">{t('hand.owner_of', { at: at + 1, of })}</span>}
      <span className="hints" aria-hidden>
        <kbd>j</kbd> <kbd>k</kbd> {t('hand.hint_move')} <kbd>e</kbd> {t('hand.hint_edit')} <kbd>z</kbd>{' '}
        {t('hand.hint_undo')}
      </span>
      <span className="grow" role="status">
        {wrong?.map((w) => (
          <span key={`${w.owner}-${w.field}`} className="wrong handwrong">
            <b>{draft[w.owner]?.label}</b> {say(w.why)}
          </span>
        ))}
      </span>
      {mayEdit && n > 0 && (
        <>
          <b>{t('hand.changed', { count: n })}</b>
          <Button size="compact-sm" variant="subtle" className="quietbutton" onClick={takeBack}>
            {t('hand.take_back')}
          </Button>
          <Button size="compact-sm" variant="subtle" className="quietbutton" onClick={discard}>
            {t('hand.discard')}
          </Button>
          <Button size="compact-sm" onClick={() => go(false)} loading={plan.isPending}>
            {t('hand.see_plan')}
          </Button>
          <Button size="compact-sm" className="go" onClick={() => go(true)} loading={plan.isPending}>
            {t('hand.apply')}
          </Button>
        </>
      )}
    </>
  );
}
