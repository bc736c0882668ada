import { type QueryClient, queryOptions } from '@tanstack/react-query';
import { t } from '../words/words';
import { client, data, type Line, type Pairing, type Schemas } from './client';

type Piece = Schemas['Pairing'];

const ask = (id: number, query: { since?: string; from?: number }, signal: AbortSignal) =>
  data(client.GET('/api/deliveries/{id}/pairing', { params: { path: { id }, query }, signal }));

/** The decisions that are on their way to the server, by delivery. */
const onTheWay = new Map<number, Set<Promise<unknown>>>();

/** Notes decisions that are on their way: a board that is asked for waits for them, else it would show what was before. */
export function sent<T>(id: number, decisions: Promise<T>): Promise<T> {
  const all = onTheWay.get(id) ?? new Set();
  onTheWay.set(id, all.add(decisions));
  return decisions.finally(() => all.delete(decisions));
}

/**
 * A delivery's lines. They come in pieces: the first are shown at once, the rest comes behind them. What is here already is brought
 * up to date by what changed since, however many lines there are; what was broken off goes on where it was.
 */
export const pairingQuery = (id: number) =>
  queryOptions({
    queryKey: ['pairing', id],
    queryFn: async ({ client: queries, signal }): Promise<Pairing> => {
      let board = queries.getQueryData<Pairing>(['pairing', id]);
      for (;;) {
        await Promise.allSettled(onTheWay.get(id) ?? []);
        board = await whole(id, board, queries, signal);
        const newest = board && (await upToDate(id, board, queries, signal));
        if (newest) return newest;
        board = undefined; // it is not known any more what changed
      }
    },
    enabled: id > 0,
    gcTime: 10_000,
    structuralSharing: false,
  });

/** All lines, beginning with those that are here; nothing where there are others by now. */
async function whole(id: number, had: Pairing | undefined, queries: QueryClient, signal: AbortSignal) {
  const quiet = (queries.getQueryData<Pairing>(['pairing', id])?.lines.length ?? 0) > 0 && !had; // others are still shown
  let board = had;
  let shown = had?.lines.length ?? 0;
  while (!board || board.lines.length < board.total) {
    const piece: Piece = await ask(id, { from: board?.lines.length ?? 0 }, signal);
    if (board && piece.total !== board.total) return undefined;
    board = grown(board, piece);
    // Each time that more is shown, all that is here is looked through: so it is shown when it has grown by a quarter.
    if (!quiet && board.lines.length > shown * 1.25) {
      queries.setQueryData(['pairing', id], board);
      shown = board.lines.length;
    }
  }
  return board;
}

function grown(board: Pairing | undefined, { lines, changes: _, whys, delivery, ...piece }: Piece): Pairing {
  const more = lines.map((l) => Object.assign(l, { why: whys[l.w], doubt: whys[(l.d ?? 0) - 1] }));
  if (board) return { ...board, lines: board.lines.concat(more), owners: joined(board.owners, piece.owners) };
  if (!delivery) throw new Error(t('error.gone_delivery'));
  return { ...piece, delivery, lines: more };
}

/** The lines with what changed since their version; nothing where the server does not know that any more. */
async function upToDate(
  id: number,
  board: Pairing,
  queries: QueryClient,
  signal: AbortSignal,
): Promise<Pairing | undefined> {
  const since = board.version;
  let now = board;
  for (let from: number | undefined = 0; from !== undefined; ) {
    const piece: Piece = await ask(id, { since, from }, signal);
    if (piece.whole) return undefined;
    // The state is that of the first piece: what changed while the others were asked is asked for once more.
    now = { ...merged(now, piece), version: from === 0 ? piece.version : now.version };
    // Where nearly all changed the rest takes a while: the counts and the first lines are shown before it, under the old version, so
    // that whoever is broken off asks for all of it again.
    if (from === 0 && piece.next !== undefined) queries.setQueryData(['pairing', id], { ...now, version: since });
    from = piece.next;
  }
  return now.version === since ? now : upToDate(id, now, queries, signal); // until nothing changed while it was asked
}

function joined(had: Pairing['owners'], more: Pairing['owners']): Pairing['owners'] {
  if (more.length === 0) return had;
  const owners = new Map(had.map((o) => [o.id, o]));
  for (const o of more) owners.set(o.id, o);
  return [...owners.values()];
}

function merged(had: Pairing, { lines: _, delivery: __, changes, whys, ...piece }: Piece): Pairing {
  const changed = new Map(changes.map((c) => [c.id, c]));
  return {
    ...piece,
    delivery: had.delivery,
    unfit: had.unfit,
    lines: changed.size
      ? had.lines.map((l) => {
          const c = changed.get(l.id);
          return c ? withClaim(l, c, whys) : l;
        })
      : had.lines,
    owners: joined(had.owners, piece.owners),
  };
}

/** A line as it arrived, with what is said of it now. Written out, as spreading a hundred thousand takes long. */
const withClaim = (l: Line, c: Piece['changes'][number], whys: Piece['whys']): Line => ({
  id: l.id,
  path: l.path,
  bytes: l.bytes,
  problem: l.problem,
  message: l.message,
  seen: l.seen,
  sha: l.sha,
  format: l.format,
  width: l.width,
  height: l.height,
  w: c.w,
  why: whys[c.w],
  doubt: whys[(c.d ?? 0) - 1],
  grade: c.grade,
  owner: c.owner,
  place: c.place,
  also: c.also,
  number: c.number,
  key: c.key,
  fit: c.fit,
  spans: c.spans,
  keySpan: c.keySpan,
  keyText: c.keyText,
  candidates: c.candidates,
  person: c.person,
  aside: c.aside,
  rank: c.rank,
  colour: c.colour,
  alike: c.alike,
  kinds: c.kinds,
});
