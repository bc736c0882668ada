import { TextInput } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { type KeyboardEvent, useMemo, useRef, useState } from 'react';
import type { Line, Owner } from '../../api/client';
import { pairingQuery } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { Empty } from '../../ui/Empty';
import { Filter } from '../../ui/Filter';
import { baseName, bytes, count, plural, when } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { Met } from '../../ui/Met';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { useMayEdit } from '../../ui/Shell';
import { Strip, Thumb } from '../../ui/Thumb';
import { useDecisions } from './decisions';
import { keyMet } from './keyMet';
import { decidedKinds, gradeKinds, lookKinds, sorted } from './kinds';
import { LineGlass } from './LineGlass';
import { moved } from './order';
import { PlanBar } from './PlanBar';
import { TrialBoard } from './TrialBoard';

/** The station where a delivery's names are read for owners, checked line by line, and planned. */
export function Pair() {
  const delivery = Number(useParams({ from: '/pair/$delivery' }).delivery);
  const search = useSearch({ from: '/pair/$delivery' });
  const navigate = useNavigate({ from: '/pair/$delivery' });
  const pairing = useQuery(pairingQuery(delivery));
  const mayEdit = useMayEdit();
  const decisions = useDecisions(delivery);
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const [seeking, setSeeking] = useState(false);
  const filterField = useRef<HTMLInputElement>(null);
  const go = (part: { show?: string; at?: number; q?: string }) =>
    void navigate({ search: (s) => ({ ...s, ...part }), replace: true });

  const all = pairing.data?.lines;
  const owners = useMemo(() => new Map((pairing.data?.owners ?? []).map((o) => [o.id, o])), [pairing.data]);
  const kinds = useMemo(() => sorted(all ?? [], owners), [all, owners]);
  const counts = (kind: string) => kinds.get(kind)?.size ?? 0;
  const show = search.show ?? 'all';
  const q = (search.q ?? '').toLowerCase();
  const lines = useMemo(
    () =>
      (all ?? []).filter(
        (l) =>
          (show === 'all' || kinds.get(show)?.has(l.id)) &&
          (!q ||
            l.path.toLowerCase().includes(q) ||
            owners
              .get(l.owner ?? 0)
              ?.sku.toLowerCase()
              .includes(q)),
      ),
    [all, show, q, owners, kinds],
  );
  const at = Math.min(search.at ?? 0, Math.max(0, lines.length - 1));
  const line = lines[at];

  useHotkeys([
    ['/', () => filterField.current?.focus()],
    ['z', () => mayEdit && decisions.takeBack()],
  ]);

  const inHand = () => (picked.size ? lines.filter((l) => picked.has(l.id)) : line ? [line] : []);
  const next = () => go({ at: Math.min(at + 1, lines.length - 1) });
  const accept = (owner?: number) => {
    const chosen = inHand()
      .map((l) => ({ line: l, owner: owner ?? l.owner }))
      .filter((c) => c.owner !== undefined && c.line.sha);
    if (!chosen.length) return;
    decisions.decide(
      chosen.map((c) => ({ arrival: c.line.id, owner: c.owner, rank: c.line.rank })),
      chosen.map((c) => c.line),
      `${plural(chosen.length, 'line')} accepted`,
    );
    setPicked(new Set());
    if (show === 'all' || !owner) next();
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
    if (key === ' ' && line) {
      setPicked((now) => toggled(now, line.id));
      return true;
    }
    if (!mayEdit) return false;
    if (event.altKey && key === 'ArrowUp') move(-1);
    else if (event.altKey && key === 'ArrowDown') move(1);
    else if (key === 'Enter') accept();
    else if (key === 's') setSeeking(true);
    else if (key === 'x') setAside();
    else if (/^[1-9]$/.test(key) && line?.candidates?.[Number(key) - 1])
      accept(line.candidates[Number(key) - 1]?.owner);
    else return false;
    return true;
  };

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
        rail={
          <>
            <h2 className="railhead">Lines</h2>
            <Filter
              name="✱ all"
              count={all.length}
              on={show === 'all'}
              onClick={() => go({ show: undefined, at: 0 })}
            />
            {gradeKinds.map((g) => (
              <Filter
                key={g}
                name={<Grade grade={g} word />}
                count={counts(g)}
                on={show === g}
                onClick={() => go({ show: g, at: 0 })}
              />
            ))}
            <h2 className="railhead">Decided</h2>
            {decidedKinds.map((name) => (
              <Filter
                key={name}
                name={name}
                count={counts(name)}
                on={show === name}
                onClick={() => go({ show: name, at: 0 })}
              />
            ))}
            {lookKinds.some((name) => counts(name)) && <h2 className="railhead">Worth a look</h2>}
            {lookKinds.map((name) =>
              counts(name) ? (
                <Filter
                  key={name}
                  name={name}
                  count={counts(name)}
                  on={show === name}
                  onClick={() => go({ show: name, at: 0 })}
                />
              ) : null,
            )}
            {pairing.data.unfit.length > 0 && (
              <p className="soft">{plural(pairing.data.unfit.length, 'SKU says', 'SKUs say')} too little to pair by.</p>
            )}
          </>
        }
        board={
          <>
            <header className="top">
              <div className="row">
                <div className="grow">
                  <h1>{d.title}</h1>
                  <p className="soft">
                    {plural(d.lines, 'file')} · {bytes(d.bytes)} · {when(d.createdAt)}
                  </p>
                </div>
                <TextInput
                  ref={filterField}
                  className="filterfield"
                  aria-label="Filter the lines by file or SKU"
                  placeholder="Filter by file or SKU"
                  rightSection={<kbd>/</kbd>}
                  value={search.q ?? ''}
                  onChange={(e) => go({ q: e.currentTarget.value || undefined, at: 0 })}
                  onKeyDown={(e) => {
                    if (e.key !== 'Enter' && e.key !== 'Escape') return;
                    document.querySelector<HTMLElement>('.lines .scroll')?.focus();
                  }}
                />
              </div>
              <TrialBoard delivery={delivery} ladder={pairing.data.ladder} mayEdit={mayEdit} />
            </header>
            {lines.length ? (
              <Board
                label={d.title}
                lines={lines.length}
                height={46}
                at={at}
                onAt={(n) => go({ at: n })}
                columns="20px 40px minmax(150px, 1.5fr) 14px minmax(120px, 1fr) 30px 104px"
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
                onKey={onKey}
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
              onSearch={() => setSeeking(true)}
              onAside={setAside}
              onOrder={(decided, before) => decisions.decide(decided, before, 'the order')}
            />
          )
        }
        foot={
          <PlanBar
            delivery={delivery}
            ready={ready}
            at={at}
            lines={lines.length}
            picked={picked.size}
            mayEdit={mayEdit}
          />
        }
      />
      <OwnerSearch
        opened={seeking}
        title={picked.size > 1 ? `Whose are these ${count(picked.size)}?` : 'Whose picture is this?'}
        hint={line ? baseName(line.path) : ''}
        onClose={() => setSeeking(false)}
        onPick={(owner) => {
          setSeeking(false);
          accept(owner.id);
        }}
      />
    </>
  );
}

function PairLine({ line, owners }: { line?: Line; owners: Map<number, Owner> }) {
  if (!line) return null;
  const owner = owners.get(line.owner ?? 0);
  const cut = line.path.length - baseName(line.path).length;
  const span =
    line.span && line.span[0] !== undefined && line.span[1] !== undefined
      ? [line.span[0] - cut, line.span[1] - cut]
      : undefined;
  return (
    <>
      <span role="gridcell">
        <Grade grade={line.aside ? 'ignored' : line.grade} />
      </span>
      <span role="gridcell">
        <Thumb sha={line.sha} size={36} />
      </span>
      <span role="gridcell" className="two">
        <span className="mono clip">
          <Met text={baseName(line.path)} span={span} />
        </span>
        {cut > 0 && <span className="soft clip">{line.path.slice(0, cut)}</span>}
      </span>
      <span role="gridcell" aria-hidden className="soft">
        {owner ? '→' : ''}
      </span>
      <span role="gridcell" className="two">
        {owner ? (
          <>
            <b className="mono clip">
              <Met {...keyMet(line, owner)} />
            </b>
            <span className="soft clip">
              {line.person ? `by hand, ${line.person} · ` : ''}
              {line.key === 'barcode' ? `${owner.sku} · ` : ''}
              {owner.label}
            </span>
          </>
        ) : line.candidates?.length && !line.aside ? (
          line.candidates.slice(0, line.grade === 'unclaimed' ? 1 : 2).map((c, i) => (
            <span key={`${c.owner}-${c.fit}-${c.number}`} className="soft clip">
              {line.grade === 'unclaimed' && i === 0 ? 'nearest ' : ''}
              <span className="mono">{owners.get(c.owner)?.sku}</span>
              {i === 1 && (line.candidates?.length ?? 0) > 2 ? ` and ${(line.candidates?.length ?? 0) - 2} more` : ''}
            </span>
          ))
        ) : (
          <span className="soft clip">{line.aside ? `set aside by ${line.person}` : reason(line)}</span>
        )}
      </span>
      <span role="gridcell" className="figures">
        {line.place ?? ''}
      </span>
      <span role="gridcell">{owner && <Strip shas={owner.now} most={3} />}</span>
    </>
  );
}

const reason = (line: Line) => (line.grade === 'ignored' ? line.why : 'nobody claims it');

function toggled(set: ReadonlySet<number>, id: number): ReadonlySet<number> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}
