import { Button, TextInput } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useParams, useSearch } from '@tanstack/react-router';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { pairingQuery } from '../../api/board';
import type { Line, Owner, Pairing } from '../../api/client';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { say } from '../../ui/complain';
import { Empty } from '../../ui/Empty';
import { FileName } from '../../ui/FileName';
import { Filter } from '../../ui/Filter';
import { baseName, bytes, count, plural, when } from '../../ui/format';
import { Grade } from '../../ui/Grade';
import { Met } from '../../ui/Met';
import { OwnerSearch } from '../../ui/OwnerSearch';
import { useMayEdit } from '../../ui/Shell';
import { Strip, Thumb } from '../../ui/Thumb';
import { asItStands, useDecisions } from './decisions';
import { keyMet } from './keyMet';
import { decidedKinds, gradeKinds, lookKinds, perhaps, sorted } from './kinds';
import { LineGlass } from './LineGlass';
import { OwnerBoard } from './OwnerBoard';
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
  const [seeking, setSeeking] = useState<'owner' | 'share'>();
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

  useHotkeys([
    ['/', () => filterField.current?.focus()],
    ['z', () => mayEdit && decisions.takeBack()],
    ['v', () => go({ view: byOwner ? undefined : 'owner', at: 0 })],
  ]);

  const inHand = () => (!byOwner && picked.size ? lines.filter((l) => picked.has(l.id)) : line ? [line] : []);
  const next = () => go({ at: Math.min(at + 1, lines.length - 1) });
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
    if (show === 'all' || !owner) next();
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
    go({ show: undefined, at: 0 });
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
            {groups.length > 0 && <h2 className="railhead">Unclaimed, perhaps</h2>}
            {groups.slice(0, 8).map(([differs, of]) => (
              <Filter
                key={differs}
                quiet
                name={differs}
                count={of.length}
                on={group === differs}
                onClick={() => go({ show: `perhaps:${differs}`, at: 0, view: undefined })}
              />
            ))}
            {pairing.data.unfitAll > 0 && (
              <details className="unfit">
                <summary className="soft">
                  {plural(pairing.data.unfitAll, 'key is', 'keys are')} unfit to pair by
                </summary>
                <ul className="plain">
                  {pairing.data.unfit.slice(0, 50).map((u) => (
                    <li key={`${u.owner}-${u.key}`}>
                      <code>{u.key}</code> <span className="soft">{u.why}</span>
                    </li>
                  ))}
                </ul>
              </details>
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
                <fieldset className="views" aria-label="Look at it">
                  <button type="button" aria-pressed={!byOwner} onClick={() => go({ view: undefined, at: 0 })}>
                    by file
                  </button>
                  <button type="button" aria-pressed={byOwner} onClick={() => go({ view: 'owner', at: 0 })}>
                    by owner
                  </button>
                </fieldset>
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
              <TrialBoard
                delivery={delivery}
                ladder={pairing.data.ladder}
                habits={pairing.data.habits}
                mayEdit={mayEdit}
              />
              {group !== undefined && lines.length > 0 && (
                <p className="notice row">
                  <span className="grow">
                    {plural(lines.length, 'line')} nobody claims; for each there is an owner but {group}.
                  </span>
                  {mayEdit && (
                    <Button size="compact-sm" className="go" onClick={fixGroup}>
                      Pair all {count(lines.length)} so
                    </Button>
                  )}
                </p>
              )}
            </header>
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
                onKey={onKey}
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
              onSearch={() => setSeeking('owner')}
              onAcceptAll={acceptAll}
              onShare={() => setSeeking('share')}
              onUnshare={unshare}
              onAside={setAside}
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

function PairLine({ line, owners }: { line?: Line; owners: Map<number, Owner> }) {
  if (!line) return null;
  const owner = owners.get(line.owner ?? 0);
  const cut = line.path.length - baseName(line.path).length;
  return (
    <>
      <span role="gridcell">
        <Grade grade={line.aside ? 'ignored' : line.grade} />
      </span>
      <span role="gridcell">
        <Thumb sha={line.sha} size={36} />
      </span>
      <span role="gridcell" className="two">
        <FileName name={baseName(line.path)} spans={line.spans} from={cut} />
        {cut > 0 && (
          <span className="soft clip">
            <Met text={line.path.slice(0, cut)} spans={line.spans} />
          </span>
        )}
      </span>
      <span role="gridcell" aria-hidden className="soft">
        {owner ? '→' : ''}
      </span>
      {owner ? (
        <>
          <span role="gridcell" className="two">
            <b className="mono clip">
              <Met {...keyMet(line, owner)} />
            </b>
            <span className="soft clip">
              {line.person ? `by hand, ${line.person} · ` : ''}
              {line.keyText && line.keyText !== owner.sku ? `${owner.sku} · ` : ''}
              {line.also?.length ? `and ${plural(line.also.length, 'owner')} more · ` : ''}
              {line.doubt ? <span className="differs">{line.doubt}</span> : owner.label}
            </span>
          </span>
          <span role="gridcell" className="figures">
            {line.place ?? ''}
          </span>
          <span role="gridcell">
            <Strip shas={owner.now} most={3} />
          </span>
        </>
      ) : (
        // Nobody gets it, so that there is no place either: what stands against it has all the room.
        <span role="gridcell" aria-colspan={3} className="two rest">
          {line.candidates?.[0] && !line.aside ? (
            <Rivals line={line} owners={owners} />
          ) : (
            <span className="soft clip">{line.aside ? `set aside by ${line.person}` : reason(line)}</span>
          )}
        </span>
      )}
    </>
  );
}

const distinctOwners = (line?: Line) => [...new Set(line?.candidates?.map((c) => c.owner))];

/** Says when the catalogue changed while the bench was open, and how many lines are paired otherwise since. */
function useCatalogueNotice(pairing: Pairing | undefined) {
  const before = useRef<Pairing>(undefined);
  useEffect(() => {
    const had = before.current;
    before.current = pairing;
    if (!had || !pairing || had.delivery.id !== pairing.delivery.id || had.catalogue === pairing.catalogue) return;
    const was = new Map(had.lines.map((l) => [l.id, l]));
    const touched = pairing.lines.filter((l) => {
      const w = was.get(l.id);
      return w && (w.owner !== l.owner || w.grade !== l.grade);
    }).length;
    say(
      touched
        ? `The catalogue has changed: ${plural(touched, 'line')} paired anew.`
        : 'The catalogue has changed; these lines are as they were.',
    );
  }, [pairing]);
}

/** Who a line may be meant for: the two that contest it, or the nearest and what differs. */
function Rivals({ line, owners }: { line: Line; owners: Map<number, Owner> }) {
  const name = (id?: number) => owners.get(id ?? 0)?.sku || owners.get(id ?? 0)?.label;
  const [first, second, ...more] = line.candidates ?? [];
  if (line.grade === 'unclaimed') {
    return (
      <>
        <span className="soft clip">
          nearest <span className="mono">{name(first?.owner)}</span>
        </span>
        <span className="differs clip">{first?.differs || line.doubt}</span>
      </>
    );
  }
  return (
    <>
      <span className="soft clip">
        <span className="mono">{name(first?.owner)}</span> or <span className="mono">{name(second?.owner)}</span>
        {more.length > 0 && ` and ${more.length} more`}
      </span>
      {line.doubt && <span className="differs clip">{line.doubt}</span>}
    </>
  );
}

const reason = (line: Line) => (line.grade === 'ignored' ? line.why : 'nobody claims it');

function toggled(set: ReadonlySet<number>, id: number): ReadonlySet<number> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}
