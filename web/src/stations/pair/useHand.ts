import { type KeyboardEvent, useState } from 'react';
import type { Line, Owner } from '../../api/client';
import type { Decision } from '../../api/queries';
import { say } from '../../ui/complain';
import { t } from '../../words/words';
import { copyLines } from './copyLines';
import { asItStands, useDecisions } from './decisions';
import { downloadZip } from './downloadZip';
import { type Group, saidOf } from './kinds';
import { type Move, moved } from './order';
import type { usePicks } from './usePicks';

interface Hand {
  delivery: number;
  /** All lines of the delivery by id, those that are shown, and the one in focus. */
  all: Map<number, Line>;
  lines: Line[];
  line: Line | undefined;
  /** The group of lines that is shown. */
  group: Group | undefined;
  byOwner: boolean;
  mayEdit: boolean;
  owners: Map<number, Owner>;
  picks: ReturnType<typeof usePicks>;
  /** Brings the focus to the next line that nobody decided. */
  next: (decided: Line[], any?: boolean) => void;
  /** Brings it back, where the server did not take the decision. */
  back: (line: Line | undefined) => void;
  showAll: () => void;
}

/** What is done with the lines in hand: those that are picked, shown or not, else the one in focus. */
export function useHand({
  delivery,
  all,
  lines,
  line,
  group,
  byOwner,
  mayEdit,
  owners,
  picks,
  next,
  back,
  showAll,
}: Hand) {
  const decisions = useDecisions(delivery);
  const { picked, setPicked } = picks;
  const [seeking, setSeeking] = useState<'owner' | 'share'>();
  const inHand = (): Line[] => {
    const chosen = byOwner ? [] : [...picked].flatMap((id) => all.get(id) ?? []);
    return chosen.length ? chosen : line ? [line] : [];
  };
  /** Sends decisions and goes on; where the server does not take them, all is in hand as before. */
  const send = (made: Decision[], decided: Line[]) => {
    setPicked(new Set());
    next(decided);
    decisions.decide(made, () => {
      setPicked(picked);
      back(line);
    });
  };
  /** Accepts what is in hand: for the owner it has, or the one that is given for it. */
  const accept = (give: number | ((l: Line) => number | undefined) = (l) => l.owner) => {
    const hand = inHand().filter((l) => l.sha);
    const chosen = hand.flatMap((l) => {
      const owner = typeof give === 'number' ? give : give(l);
      return owner === undefined ? [] : [{ line: l, owner }];
    });
    if (!chosen.length) return;
    send(
      chosen.map(({ line: l, owner }) => ({
        ...asItStands(l),
        owner,
        also: l.also?.filter((a) => a.owner !== owner),
        aside: false,
      })),
      chosen.map((c) => c.line),
    );
    const left = hand.length - chosen.length;
    if (left) {
      say(`${t('pair.accepted_some', { count: chosen.length })} ${t('pair.without_such', { count: left })}`);
    }
  };
  const share = (owner: number) => {
    const chosen = inHand().filter((l) => l.sha && l.owner && l.owner !== owner);
    decisions.decide(
      chosen.map((l) => ({ ...asItStands(l), also: [...(l.also ?? []).filter((a) => a.owner !== owner), { owner }] })),
    );
    setPicked(new Set());
  };
  const unshare = (owner: number) =>
    line && decisions.decide([{ ...asItStands(line), also: line.also?.filter((a) => a.owner !== owner) }]);
  const acceptAll = () => {
    const [first, ...rest] = distinctOwners(line);
    if (!line?.sha || first === undefined || rest.length === 0) return;
    send([{ arrival: line.id, owner: first, also: rest.map((owner) => ({ owner })) }], [line]);
  };
  const fixGroup = () => {
    const chosen = lines.filter((l) => l.sha);
    decisions.decide(
      chosen.flatMap((l) => {
        const owner = group && saidOf(l, group)?.owner;
        return owner ? [{ ...asItStands(l), owner, aside: false }] : [];
      }),
    );
    showAll();
  };
  const setAside = () => {
    const chosen = inHand().filter((l) => l.sha);
    if (!chosen.length) return;
    send(
      chosen.map((l) => ({ arrival: l.id, aside: true })),
      chosen,
    );
  };
  /** Marks what is in hand as read through, or takes the mark off where all of it has it. */
  const check = () => {
    const chosen = inHand().filter((l) => l.sha);
    if (!chosen.length) return;
    const right = chosen.some((l) => !l.kinds?.includes('checked'));
    decisions.check(
      chosen.map((l) => l.id),
      right,
    );
    setPicked(new Set());
    if (right) next(chosen, true);
  };
  /** Moves what is in hand among its owner's pictures; what was picked stays picked, to go on. */
  const move = (to: Move) => decisions.order(moved(all.values(), inHand(), to));
  const onKey = (key: string, event: KeyboardEvent) => {
    if (key === ' ' && line && !byOwner) {
      picks.toggle(line.id);
      return true;
    }
    if ((event.ctrlKey || event.metaKey) && !byOwner) {
      if (key === 'a') picks.all();
      else if (key === 'c') void copyLines(inHand(), owners);
      else return false;
      return true;
    }
    if (key === 'i' && !byOwner) {
      picks.invert();
      return true;
    }
    if (!mayEdit) return false;
    const act = action(key, event);
    if (!act) return false;
    // A key that is held decides one line, not all that come by; moving may go on.
    if (!event.repeat || event.altKey) act();
    return true;
  };
  const action = (key: string, { altKey, shiftKey }: KeyboardEvent): (() => void) | undefined => {
    const to = moves[shiftKey ? `Shift ${key}` : key];
    if (altKey) return to && (() => move(to));
    if (key === 'Enter') return shiftKey && group ? fixGroup : () => accept();
    if (key === 'c') return check;
    if (key === 's') return () => setSeeking('owner');
    if (key === 'a' && line?.owner) return () => setSeeking('share');
    if (key === 'x') return setAside;
    if (key === 'b' && line?.grade === 'contested') return acceptAll;
    if (/^[1-9]$/.test(key)) return () => accept((l) => l.candidates?.[Number(key) - 1]?.owner);
    return undefined;
  };

  return {
    decisions,
    seeking,
    setSeeking,
    accept,
    share,
    unshare,
    acceptAll,
    fixGroup,
    setAside,
    check,
    move,
    copy: () => void copyLines(inHand(), owners),
    zip: () =>
      void downloadZip(
        delivery,
        inHand().filter((l) => l.sha),
      ),
    onKey,
  };
}

const moves: Record<string, Move> = {
  ArrowUp: 'earlier',
  ArrowDown: 'later',
  'Shift ArrowUp': 'first',
  'Shift ArrowDown': 'last',
};

const distinctOwners = (line?: Line) => [...new Set(line?.candidates?.map((c) => c.owner))];
