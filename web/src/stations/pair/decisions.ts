import { useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';
import type { Line } from '../../api/client';
import { ask, type Decision, useAsk } from '../../api/queries';
import { say } from '../../ui/complain';

/** The decision that keeps a line as it stands. */
export const asItStands = (l: Line): Decision => ({
  arrival: l.id,
  owner: l.owner,
  also: l.also,
  aside: l.aside,
  rank: l.rank,
});

/** Keeps decisions on the server, and remembers what was decided before, so that z takes the last one back. */
export function useDecisions(delivery: number) {
  const queries = useQueryClient();
  const done = useRef<{ before: Line[]; words: string }[]>([]);
  const touched = [['pairing', delivery]];
  const decide = useAsk((d: Decision[]) => ask.decide(delivery, d), touched);
  const restore = useAsk(async (before: Line[]) => {
    const engine = before.filter((l) => !l.person).map((l) => l.id);
    const hand = before.filter((l) => l.person);
    if (engine.length) await ask.takeBack(delivery, engine);
    if (hand.length) await ask.decide(delivery, hand.map(asItStands));
  }, touched);
  return {
    pending: decide.isPending || restore.isPending,
    decide(decisions: Decision[], before: Line[], words: string) {
      done.current.push({ before, words });
      decide.mutate(decisions, { onError: () => done.current.pop() });
    },
    takeBack() {
      const last = done.current.pop();
      if (!last) {
        say('There is nothing to take back.');
        return;
      }
      restore.mutate(last.before, {
        onSuccess: () => say(`Taken back: ${last.words}`),
        onError: () => void queries.invalidateQueries({ queryKey: ['pairing', delivery] }),
      });
    },
  };
}
