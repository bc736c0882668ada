import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { lazy, Suspense, useCallback, useMemo, useRef, useState } from 'react';
import { pairingQuery } from '../../api/board';
import type { Line } from '../../api/client';
import type { Where } from '../../router';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { baseName } from '../../ui/format';
import { useMayEdit } from '../../ui/session';
import { useFocus } from '../../ui/useFocus';
import { useKeys } from '../../ui/useKeys';
import { useStable } from '../../ui/useStable';
import { useTitle } from '../../ui/useTitle';
import { t } from '../../words/words';
import { useCatalogueNotice } from './catalogueNotice';
import { groupOf } from './kinds';
import { LineGlass } from './LineGlass';
import { lineActs } from './lineActs';
import { PairRail } from './PairRail';
import { PairTop } from './PairTop';
import { PlanBar } from './PlanBar';

import { useHand } from './useHand';
import { nextOf, usePairLines } from './usePairLines';
import { usePicks } from './usePicks';
import { usePlan } from './usePlan';
import { Compare, OwnerBoard, SeriesBoard } from './views';

const OwnerSearch = lazy(() => import('../../ui/OwnerSearch').then((m) => ({ default: m.OwnerSearch })));

const notRead = (l: Line) => !l.kinds?.includes('checked');

/** The station where a delivery's names are read for owners, checked line by line, and planned. */
export function Pair() {
  const delivery = Number(useParams({ from: '/pair/$delivery' }).delivery);
  const search = useSearch({ from: '/pair/$delivery' });
  const navigate = useNavigate({ from: '/pair/$delivery' });
  const pairing = useQuery(pairingQuery(delivery));
  const mayEdit = useMayEdit();
  const [ownersLine, setOwnersLine] = useState<Line>();
  const [ownersShown, setOwnersShown] = useState({ at: 0, of: 0 });
  const filterField = useRef<HTMLInputElement>(null);
  const [comparing, setComparing] = useState(false);
  const byOwner = search.view === 'owner';
  const bySeries = search.view === 'series';
  const go = useStable((part: Where) => void navigate({ search: (s) => ({ ...s, ...part }), replace: true }));
  const show = search.show ?? 'all';
  const group = useMemo(() => groupOf(show), [show]);
  const { all, owners, byID, columns, lines, passes } = usePairLines(pairing.data, {
    show,
    group,
    q: (search.q ?? '').toLowerCase(),
    sort: search.sort,
  });
  const at = useFocus(lines, byOwner ? undefined : search.at);
  const line = byOwner ? byID.get(ownersLine?.id ?? 0) : bySeries ? byID.get(search.at ?? 0) : lines[at];
  useCatalogueNotice(pairing.data);
  useTitle('pair', pairing.data?.delivery.title);
  const picks = usePicks(lines);
  const plan = usePlan(delivery, pairing.data?.version);
  const goTo = (to: number, how?: { shift: boolean; ctrl: boolean }) => {
    const l = lines[to];
    if (how?.shift) picks.range(at, to);
    else if (how?.ctrl && l) picks.toggle(l.id);
    else picks.moved(to);
    go({ at: l?.id });
  };
  const hand = useHand({
    delivery,
    all: byID,
    lines,
    line,
    group,
    byOwner,
    mayEdit,
    owners,
    picks,
    next: (decided, any) => !search.view && go({ at: nextOf(lines, at, decided, any ? notRead : undefined) }),
    back: (l) => !search.view && go({ at: l?.id }),
    showAll: () => go({ show: undefined, at: undefined }),
  });
  const fixGroup = useStable(hand.fixGroup);
  const { decisions, seeking, setSeeking, accept, share } = hand;
  const { picked } = picks;
  const hidden = useMemo(
    () => [...picked].flatMap((id) => byID.get(id) ?? []).filter((l) => !passes(l)).length,
    [picked, passes, byID],
  );
  const ownersAre = useCallback((at: number, of: number) => setOwnersShown({ at, of }), []);
  const toNext = (of?: (l: Line) => boolean) => !search.view && go({ at: nextOf(lines, at, line ? [line] : [], of) });
  const filter = () => filterField.current?.focus();
  useKeys([
    ['/', filter, { preventDefault: true }],
    ['f', filter, { preventDefault: true }],
    ['z', () => mayEdit && decisions.undo()],
    ['shift+Z', () => mayEdit && decisions.redo()],
    ['v', () => go({ view: byOwner ? undefined : 'owner', at: undefined })],
    ['n', () => toNext()],
    ['o', () => toNext((l) => l.grade === 'contested' && !l.person)],
    ['p', () => mayEdit && plan.see()],
    ['m', () => line?.sha && !search.view && setComparing(true)],
  ]);

  if (pairing.isError) {
    return (
      <Bench
        rail={<h2 className="railhead">{t('station.pair')}</h2>}
        glass={null}
        board={<Empty title={t('pair.cant')}>{pairing.error.message}</Empty>}
      />
    );
  }
  if (!pairing.data || !all) return <div className="hush">{t('pair.reading')}</div>;
  const title = pairing.data.delivery.title;
  return (
    <>
      <Bench
        rail={<PairRail {...{ pairing: pairing.data, show, group, go }} />}
        board={
          <>
            <PairTop
              {...{
                pairing: pairing.data,
                lines,
                group,
                mayEdit,
                view: search.view ?? 'file',
                q: search.q,
                filterField,
                go,
              }}
              fixGroup={fixGroup}
            />
            <Suspense key={search.view} fallback={<div className="hush">{t('pair.loading_pictures')}</div>}>
              {byOwner ? (
                <OwnerBoard
                  delivery={delivery}
                  version={pairing.data.version}
                  label={title}
                  lines={lines}
                  owners={owners}
                  at={search.at}
                  onAt={(owner) => go({ at: owner })}
                  onLine={setOwnersLine}
                  onShown={ownersAre}
                  onKey={hand.onKey}
                  acts={() => (line ? lineActs(line, hand, mayEdit) : [])}
                />
              ) : bySeries ? (
                <SeriesBoard
                  delivery={delivery}
                  version={pairing.data.version}
                  lines={byID}
                  {...{ owners, mayEdit }}
                  at={search.at}
                  onAt={(arrival) => go({ at: arrival })}
                  decide={decisions.decide}
                  onKey={hand.onKey}
                />
              ) : lines.length ? (
                <Board
                  name="pair"
                  label={title}
                  lines={lines}
                  columns={columns}
                  narrowHeight={78}
                  at={at}
                  onAt={goTo}
                  selected={(l) => picked.has(l.id)}
                  lineClass={(l) => (l.aside || l.grade === 'ignored' ? 'faint' : undefined)}
                  sorted={search.sort}
                  onSort={(sort) => go({ sort })}
                  onKey={hand.onKey}
                  acts={(l) => lineActs(l, hand, mayEdit, () => setComparing(true))}
                  autoFocus
                />
              ) : (
                <Empty title={all.length ? t('pair.no_such') : t('pair.nothing')} />
              )}
            </Suspense>
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
              onOrder={(owner, arrivals) => decisions.order([{ owner, arrivals }])}
            />
          )
        }
        foot={
          <PlanBar
            ready={pairing.data.counts.ready}
            at={byOwner ? ownersShown.at : at}
            what={byOwner ? 'owner' : 'line'}
            lines={byOwner ? ownersShown.of : lines.length}
            picked={picked.size}
            hidden={hidden}
            mayEdit={mayEdit}
            plan={plan}
          />
        }
      />
      <Suspense>
        {comparing && (
          <Compare
            {...{ lines, at, owners }}
            onAt={(to) => go({ at: lines[to]?.id })}
            onKey={hand.onKey}
            onClose={() => setComparing(false)}
          />
        )}
        <OwnerSearch
          opened={seeking !== undefined}
          title={
            seeking === 'share'
              ? t('pair.ask_share')
              : picked.size > 1
                ? t('pair.ask_many', { n: picked.size })
                : t('pair.ask_single')
          }
          hint={line ? baseName(line.path) : ''}
          onClose={() => setSeeking(undefined)}
          onPick={(owner) => {
            setSeeking(undefined);
            if (seeking === 'share') share(owner.id);
            else accept(owner.id);
          }}
        />
      </Suspense>
    </>
  );
}
