import type { Line, Schemas } from '../../api/client';
import { ask, type Decision, useAsk } from '../../api/queries';
import { say } from '../../ui/complain';
import { brief } from '../../words/messages';
import { t } from '../../words/words';

/** The decision that keeps a line as it stands. */
export const asItStands = (l: Line): Decision => ({
  arrival: l.id,
  owner: l.owner,
  also: l.also,
  aside: l.aside,
  rank: l.rank,
});

/** Sends decisions to the server, which keeps each person's steps: z undoes one's own last step, Shift z does it again. */
export function useDecisions(delivery: number) {
  const touched = [['pairing', delivery]];
  const decide = useAsk((d: Decision[]) => ask.decide(delivery, d), touched);
  const order = useAsk((o: { owner: number; arrivals: number[] }) => ask.order(delivery, o), touched);
  const check = useAsk((c: { arrivals: number[]; right: boolean }) => ask.check(delivery, c), touched);
  const step = useAsk((again: boolean) => (again ? ask.redo(delivery) : ask.undoStep(delivery)), touched);
  const back = (again: boolean) => step.mutate(again, { onSuccess: (done) => say(became(done, again)) });
  return {
    decide: (decisions: Decision[], onError?: () => void) =>
      decisions.length > 0 && decide.mutate(decisions, { onError }),
    order: (owner: number, arrivals: number[]) => order.mutate({ owner, arrivals }),
    check: (arrivals: number[], right: boolean) => check.mutate({ arrivals, right }),
    undo: () => back(false),
    redo: () => back(true),
  };
}

function became({ says, left, by }: Schemas['UndoneBody'], again: boolean): string {
  const said = t(again ? 'pair.redone' : 'pair.undone', { what: brief(says) });
  if (!left) return said;
  const who = by?.length ? by.join(', ') : t('pair.somebody');
  return `${said} ${t('pair.left', { count: left, who })}`;
}
