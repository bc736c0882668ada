import { type KeyboardEvent, useState } from 'react';
import type { Line } from '../../api/client';
import { plural } from '../../ui/format';
import { asItStands, useDecisions } from './decisions';
import { moved } from './order';

interface Hand {
  delivery: number;
  /** All lines of the delivery, those that are shown, and the one in focus. */
  all: Line[] | undefined;
  lines: Line[];
  line: Line | undefined;
  /** Whether everything is shown, and the group that is, by what differs. */
  everything: boolean;
  group: string | undefined;
  byOwner: boolean;
  mayEdit: boolean;
  next: () => void;
  showAll: () => void;
}

/** What is done with the lines in hand: those that are picked, or the one in focus. */
export function useHand({ delivery, all, lines, line, everything, group, byOwner, mayEdit, next, showAll }: Hand) {
  const decisions = useDecisions(delivery);
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const [seeking, setSeeking] = useState<'owner' | 'share'>();
  const inHand = () => (!byOwner && picked.size ? lines.filter((l) => picked.has(l.id)) : line ? [line] : []);
  const accept = (owner?: number) => {
    const chosen = inHand()
      .map((l) => ({ line: l, owner: owner ?? l.owner }))
      .filter((c) => c.owner !== undefined && c.line.sha);
    if (!chosen.length) return;
    decisions.decide(
      chosen.map((c) => ({
        ...asItStands(c.line),
        owner: c.owner,
        also: c.line.also?.filter((a) => a.owner !== c.owner),
        aside: false,
      })),
      chosen.map((c) => c.line),
      `${plural(chosen.length, 'line')} accepted`,
    );
    setPicked(new Set());
    if (everything || !owner) next();
  };
  const share = (owner: number) => {
    const chosen = inHand().filter((l) => l.sha && l.owner && l.owner !== owner);
    if (!chosen.length) return;
    decisions.decide(
      chosen.map((l) => ({ ...asItStands(l), also: [...(l.also ?? []).filter((a) => a.owner !== owner), { owner }] })),
      chosen,
      `${plural(chosen.length, 'picture')} shared`,
    );
    setPicked(new Set());
  };
  const unshare = (owner: number) => {
    if (!line) return;
    decisions.decide(
      [{ ...asItStands(line), also: line.also?.filter((a) => a.owner !== owner) }],
      [line],
      'the sharing',
    );
  };
  const acceptAll = () => {
    const [first, ...rest] = distinctOwners(line);
    if (!line?.sha || first === undefined || rest.length === 0) return;
    decisions.decide(
      [{ arrival: line.id, owner: first, also: rest.map((owner) => ({ owner })) }],
      [line],
      `${plural(rest.length + 1, 'owner')} given the picture`,
    );
    next();
  };
  const fixGroup = () => {
    const chosen = lines.filter((l) => l.sha);
    decisions.decide(
      chosen.map((l) => ({ arrival: l.id, owner: l.candidates?.find((c) => c.differs === group)?.owner })),
      chosen,
      `${plural(chosen.length, 'line')} paired`,
    );
    showAll();
  };
  const setAside = () => {
    const chosen = inHand().filter((l) => l.sha);
    if (!chosen.length) return;
    decisions.decide(
      chosen.map((l) => ({ arrival: l.id, aside: true })),
      chosen,
      `${plural(chosen.length, 'line')} set aside`,
    );
    setPicked(new Set());
    next();
  };
  const move = (by: number) => {
    if (!line || !all) return;
    const change = moved(all, line, by);
    if (change) decisions.decide(change.decisions, change.before, 'the order');
  };
  const onKey = (key: string, event: KeyboardEvent) => {
    if (key === ' ' && line && !byOwner) {
      setPicked((now) => toggled(now, line.id));
      return true;
    }
    if (!mayEdit) return false;
    if (event.altKey && key === 'ArrowUp') move(-1);
    else if (event.altKey && key === 'ArrowDown') move(1);
    else if (key === 'Enter') accept();
    else if (key === 's') setSeeking('owner');
    else if (key === 'a' && line?.owner) setSeeking('share');
    else if (key === 'x') setAside();
    else if (key === 'b' && line?.grade === 'contested') acceptAll();
    else if (/^[1-9]$/.test(key) && line?.candidates?.[Number(key) - 1])
      accept(line.candidates[Number(key) - 1]?.owner);
    else return false;
    return true;
  };

  return {
    decisions,
    picked,
    seeking,
    setSeeking,
    accept,
    share,
    unshare,
    acceptAll,
    fixGroup,
    setAside,
    onKey,
  };
}

const distinctOwners = (line?: Line) => [...new Set(line?.candidates?.map((c) => c.owner))];

function toggled(set: ReadonlySet<number>, id: number): ReadonlySet<number> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}
