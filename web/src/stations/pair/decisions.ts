import { useQuery, useQueryClient } from '@tanstack/react-query';
import { sent } from '../../api/board';
import type { Line, Pairing, Schemas } from '../../api/client';
import { ask, type Decision, sessionQuery, useAsk } from '../../api/queries';
import { say } from '../../ui/complain';
import { brief } from '../../words/messages';
import { t } from '../../words/words';
import { foreseen } from './optimism';
import type { Ordered } from './order';

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
  const queries = useQueryClient();
  const me = useQuery(sessionQuery).data?.name ?? '';
  const touched = [['pairing', delivery]];
  const decide = useAsk((d: Decision[]) => sent(delivery, ask.decide(delivery, d)), touched);
  const order = useAsk((o: Ordered[]) => ask.order(delivery, o), touched);
  const check = useAsk((c: { arrivals: number[]; right: boolean }) => ask.check(delivery, c), touched);
  const step = useAsk((again: boolean) => (again ? ask.redo(delivery) : ask.undoStep(delivery)), touched);
  const back = (again: boolean) => step.mutate(again, { onSuccess: (done) => say(became(done, again)) });
  return {
    /** What is decided is shown at once; where the server does not take it, it is as before. */
    decide(made: Decision[], onError?: () => void) {
      if (!made.length) return;
      const key = ['pairing', delivery];
      // An answer that is on its way says what was before.
      void queries.cancelQueries({ queryKey: key }, { revert: false });
      const before = queries.getQueryData<Pairing>(key);
      if (before) queries.setQueryData(key, foreseen(before, made, me));
      decide.mutate(made, {
        onError: () => {
          if (before) queries.setQueryData(key, before);
          onError?.();
        },
      });
    },
    order: (orders: Ordered[]) => orders.length && order.mutate(orders),
    check: (arrivals: number[], right: boolean) => check.mutate({ arrivals, right }),
    undo: () => back(false),
    redo: () => back(true),
  };
}

function became({ says, left, by }: Schemas['Undone'], again: boolean): string {
  const said = t(again ? 'pair.redone' : 'pair.undone', { what: brief(says) });
  if (!left) return said;
  const who = by?.length ? by.join(', ') : t('pair.somebody');
  return `${said} ${t('pair.left', { count: left, who })}`;
}
