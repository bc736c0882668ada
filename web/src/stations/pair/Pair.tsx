import { useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { useCallback, useMemo, useRef, useState } from 'react';
import { pairingQuery } from '../../api/board';
import type { Line } from '../../api/client';
import type { Where } from '../../router';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { baseName, count } from '../../ui/format';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { useMayEdit } from '../../ui/Shell';
import { useCatalogueNotice } from './catalogueNotice';
import { isOf } from './kinds';
import { LineGlass } from './LineGlass';
import { OwnerBoard } from './OwnerBoard';
import { PairLine } from './PairLine';
import { PairRail } from './PairRail';
import { PairTop } from './PairTop';
import { PlanBar } from './PlanBar';
import { useFocus } from './useFocus';
import { useHand } from './useHand';

/** The station where a delivery's names are read for owners, checked line by line, and planned. */
export function Pair() {
  const delivery = Number(useParams({ from: '/pair/$delivery' }).delivery);
  const search = useSearch({ from: '/pair/$delivery' });
  const navigate = useNavigate({ from: '/pair/$delivery' });
  const pairing = useQuery(pairingQuery(delivery));
  const mayEdit = useMayEdit();
  const [ownersLine, setOwnersLine] = useState<Line>();
  const filterField = useRef<HTMLInputElement>(null);
  const [ownersShown, setOwnersShown] = useState({ at: 0, of: 0 });
  const byOwner = search.view === 'owner';
  const go = (part: Where) => void navigate({ search: (s) => ({ ...s, ...part }), replace: true });

  const all = pairing.data?.lines;
  const owners = useMemo(() => new Map((pairing.data?.owners ?? []).map((o) => [o.id, o])), [pairing.data]);
  const byID = useMemo(() => new Map((all ?? []).map((l) => [l.id, l])), [all]);
  // What can't be paired comes last, so that the first picture has the focus from the start.
  const ordered = useMemo(() => (all ? [...all.filter(usable), ...all.filter((l) => !usable(l))] : []), [all]);
  const show = search.show ?? 'all';
  const group = show.startsWith('perhaps:') ? show.slice('perhaps:'.length) : undefined;
  const q = (search.q ?? '').toLowerCase();
  const passes = useCallback(
    (l: Line) =>
      isOf(l, show, group) && (!q || [l.path, owners.get(l.owner ?? 0)?.sku].some((s) => s?.toLowerCase().includes(q))),
    [show, group, q, owners],
  );
  const lines = useMemo(() => (show === 'all' && !q ? ordered : ordered.filter(passes)), [ordered, passes, show, q]);
  const at = useFocus(lines, byOwner ? undefined : search.at);
  const line = byOwner ? byID.get(ownersLine?.id ?? 0) : lines[at];
  useCatalogueNotice(pairing.data);

  const hand = useHand({
    delivery,
    all: byID,
    lines,
    line,
    group,
    byOwner,
    mayEdit,
    next: (decided) => !byOwner && go({ at: nextOf(lines, at, decided) }),
    back: (l) => !byOwner && go({ at: l?.id }),
    showAll: () => go({ show: undefined, at: undefined }),
  });
  const { decisions, picked, seeking, setSeeking, accept, share } = hand;
  const hidden = useMemo(
    () => [...picked].flatMap((id) => byID.get(id) ?? []).filter((l) => !passes(l)).length,
    [picked, passes, byID],
  );
  const ownersAre = useCallback((at: number, of: number) => setOwnersShown({ at, of }), []);
  useHotkeys([
    ['/', () => filterField.current?.focus()],
    ['z', () => mayEdit && decisions.undo()],
    ['shift+Z', () => mayEdit && decisions.redo()],
    ['v', () => go({ view: byOwner ? undefined : 'owner', at: undefined })],
  ]);

  if (pairing.isError) {
    return (
      <Bench
        rail={<h2 className="railhead">Pair</h2>}
        glass={null}
        board={<Empty title="This delivery can’t be shown.">{pairing.error.message}</Empty>}
      />
    );
  }
  if (!pairing.data || !all) return <div className="hush">Reading the names and pairing them …</div>;
  const d = pairing.data.delivery;

  return (
    <>
      <Bench
        rail={<PairRail {...{ pairing: pairing.data, show, group, go }} />}
        board={
          <>
            <PairTop
              {...{ pairing: pairing.data, lines, group, byOwner, mayEdit, q: search.q, filterField, go }}
              fixGroup={hand.fixGroup}
            />
            {byOwner ? (
              <OwnerBoard
                delivery={delivery}
                version={pairing.data.version}
                label={d.title}
                lines={lines}
                owners={owners}
                at={search.at}
                onAt={(owner) => go({ at: owner })}
                onLine={setOwnersLine}
                onShown={ownersAre}
                onKey={hand.onKey}
              />
            ) : lines.length ? (
              <Board
                label={d.title}
                lines={lines.length}
                height={46}
                at={at}
                onAt={(n) => go({ at: lines[n]?.id })}
                columns="20px 40px minmax(150px, 1.8fr) 14px minmax(120px, 1fr) 30px 104px"
                selected={(i) => picked.has(lines[i]?.id ?? 0)}
                lineClass={(i) => (lines[i]?.aside || lines[i]?.grade === 'ignored' ? 'faint' : undefined)}
                head={
                  <>
                    <span />
                    <span />
                    <span>File</span>
                    <span />
                    <span>Owner</span>
                    <span className="figures">No.</span>
                    <span>Now</span>
                  </>
                }
                line={(i) => <PairLine line={lines[i]} owners={owners} />}
                onKey={hand.onKey}
                autoFocus
              />
            ) : (
              <Empty title={all.length ? 'No line is of this kind.' : 'Nothing is in this delivery.'} />
            )}
          </>
        }
        glass={
          line && (
            <LineGlass
              key={line.id}
              line={line}
              lines={all}
              owners={owners}
              mayEdit={mayEdit}
              onAccept={accept}
              onSearch={() => setSeeking('owner')}
              onAcceptAll={hand.acceptAll}
              onShare={() => setSeeking('share')}
              onUnshare={hand.unshare}
              onAside={hand.setAside}
              onOrder={decisions.order}
            />
          )
        }
        foot={
          <PlanBar
            delivery={delivery}
            ready={pairing.data.counts.ready}
            at={byOwner ? ownersShown.at : at}
            what={byOwner ? 'Owner' : 'Line'}
            lines={byOwner ? ownersShown.of : lines.length}
            picked={picked.size}
            hidden={hidden}
            mayEdit={mayEdit}
          />
        }
      />
      <OwnerSearch
        opened={seeking !== undefined}
        title={
          seeking === 'share'
            ? 'Who else gets this picture?'
            : picked.size > 1
              ? `Whose are these ${count(picked.size)}?`
              : 'Whose picture is this?'
        }
        hint={line ? baseName(line.path) : ''}
        onClose={() => setSeeking(undefined)}
        onPick={(owner) => {
          setSeeking(undefined);
          if (seeking === 'share') share(owner.id);
          else accept(owner.id);
        }}
      />
    </>
  );
}

const usable = (l: Line) => l.grade !== 'ignored' && Boolean(l.sha);

/** The next line behind what was decided that nobody decided, else the one before; where there is none, the focus stays. */
function nextOf(lines: Line[], at: number, decided: Line[]): number | undefined {
  const done = new Set(decided.map((l) => l.id));
  const open = (l: Line) => !l.person && usable(l) && !done.has(l.id);
  return (lines.slice(at + 1).find(open) ?? lines.slice(0, at).findLast(open) ?? lines[at])?.id;
}
