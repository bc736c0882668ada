import { useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { useMemo, useRef, useState } from 'react';
import { pairingQuery } from '../../api/board';
import type { Line } from '../../api/client';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { baseName, count } from '../../ui/format';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { useMayEdit } from '../../ui/Shell';
import { useCatalogueNotice } from './catalogueNotice';
import { perhaps, sorted } from './kinds';
import { LineGlass } from './LineGlass';
import { OwnerBoard } from './OwnerBoard';
import { PairLine } from './PairLine';
import { PairRail } from './PairRail';
import { PairTop } from './PairTop';
import { PlanBar } from './PlanBar';
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
  const [ownersShown, setOwnersShown] = useState(0);
  const byOwner = search.view === 'owner';
  const go = (part: { show?: string; at?: number; q?: string; view?: 'owner' }) =>
    void navigate({ search: (s) => ({ ...s, ...part }), replace: true });

  const all = pairing.data?.lines;
  const owners = useMemo(() => new Map((pairing.data?.owners ?? []).map((o) => [o.id, o])), [pairing.data]);
  const kinds = useMemo(() => sorted(all ?? [], owners), [all, owners]);
  const counts = (kind: string) => kinds.get(kind)?.size ?? 0;
  const show = search.show ?? 'all';
  const groups = useMemo(() => perhaps(all ?? []), [all]);
  const group = show.startsWith('perhaps:') ? show.slice('perhaps:'.length) : undefined;
  const q = (search.q ?? '').toLowerCase();
  const lines = useMemo(
    () =>
      (show === 'all' && !q ? undefined : all)?.filter(
        (l) =>
          (show === 'all' ||
            kinds.get(show)?.has(l.id) ||
            (group !== undefined &&
              l.grade === 'unclaimed' &&
              !l.aside &&
              l.candidates?.some((c) => c.differs === group))) &&
          (!q ||
            l.path.toLowerCase().includes(q) ||
            owners
              .get(l.owner ?? 0)
              ?.sku.toLowerCase()
              .includes(q)),
      ) ??
      all ??
      [],
    [all, show, group, q, owners, kinds],
  );
  const at = Math.min(search.at ?? 0, Math.max(0, lines.length - 1));
  const line = byOwner ? all?.find((l) => l.id === ownersLine?.id) : lines[at];
  useCatalogueNotice(pairing.data);

  const hand = useHand({
    delivery,
    all,
    lines,
    line,
    everything: show === 'all',
    group,
    byOwner,
    mayEdit,
    next: () => go({ at: Math.min(at + 1, lines.length - 1) }),
    showAll: () => go({ show: undefined, at: 0 }),
  });
  const { decisions, picked, seeking, setSeeking, accept, share } = hand;
  useHotkeys([
    ['/', () => filterField.current?.focus()],
    ['z', () => mayEdit && decisions.takeBack()],
    ['v', () => go({ view: byOwner ? undefined : 'owner', at: 0 })],
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
  const ready = all.filter((l) => l.owner && l.sha && !l.aside).length;

  return (
    <>
      <Bench
        rail={<PairRail {...{ pairing: pairing.data, show, group, groups, counts, go }} />}
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
                at={search.at ?? 0}
                onAt={(n) => go({ at: n })}
                onLine={setOwnersLine}
                onShown={setOwnersShown}
                onKey={hand.onKey}
              />
            ) : lines.length ? (
              <Board
                label={d.title}
                lines={lines.length}
                height={46}
                at={at}
                onAt={(n) => go({ at: n })}
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
              onOrder={(decided, before) => decisions.decide(decided, before, 'the order')}
            />
          )
        }
        foot={
          <PlanBar
            delivery={delivery}
            ready={ready}
            at={byOwner ? (search.at ?? 0) : at}
            what={byOwner ? 'Owner' : 'Line'}
            lines={byOwner ? ownersShown : lines.length}
            picked={picked.size}
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
