import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useSearch } from '@tanstack/react-router';
import { type DragEvent, useMemo, useRef, useState } from 'react';
import type { Arrival, Delivery } from '../../api/client';
import { useDeliveries } from '../../api/pages';
import { arrivalsQuery, ask, deliveryQuery, deliveryTouched, useAsk } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { complain } from '../../ui/complain';
import { Empty } from '../../ui/Empty';
import { FileName } from '../../ui/FileName';
import { Filter } from '../../ui/Filter';
import { baseName, bytes, count, plural, when } from '../../ui/format';
import { Look } from '../../ui/Look';
import { Progress } from '../../ui/Progress';
import { useMayEdit } from '../../ui/Shell';
import { Thumb } from '../../ui/Thumb';
import { say, sayAll } from '../../words/messages';
import { type Dropped, readChosen, readDrop } from './dropped';
import { Halted } from './Halted';
import { problemWords, stateWords } from './problems';
import { dismissSending, send, stopSending, useSending } from './sending';

/** The station where files come in: deliveries, and what is in the one in hand. */
export function Gather() {
  const search = useSearch({ from: '/gather' });
  const navigate = useNavigate({ from: '/gather' });
  const mayEdit = useMayEdit();
  const { all: deliveries, more } = useDeliveries();
  const listed = search.in ? deliveries?.find((d) => d.id === search.in) : deliveries?.[0];
  const older = useQuery(deliveryQuery(deliveries && search.in && !listed ? search.in : 0)).data;
  const delivery = listed ?? older ?? deliveries?.[0];
  const arrivals = useQuery(arrivalsQuery(delivery?.id ?? 0)).data;
  const [over, setOver] = useState(false);
  const show = search.show ?? 'all';
  const lines = useMemo(() => (arrivals ?? []).filter((a) => matches(a, show)), [arrivals, show]);
  const at = Math.min(search.at ?? 0, Math.max(0, lines.length - 1));
  const counts = useMemo(() => tally(arrivals ?? []), [arrivals]);
  const go = (part: { in?: number; show?: string; at?: number }) =>
    void navigate({ search: (s) => ({ ...s, ...part }), replace: true });

  const bring = async (dropped: Dropped[]) => {
    if (dropped.length === 0) return;
    try {
      const into = delivery?.state === 'open' ? { id: delivery.id, title: delivery.title } : undefined;
      go({ in: await send(dropped, into), show: undefined, at: 0 });
    } catch (error) {
      complain(error);
    }
  };
  const onDrop = async (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    if (mayEdit) await bring(await readDrop(event.dataTransfer));
  };

  const line = (i: number) => {
    const a = lines[i];
    if (!a) return null;
    return (
      <>
        <span role="gridcell">
          <Thumb sha={a.sha} size={36} />
        </span>
        <span role="gridcell" className="two">
          <FileName name={baseName(a.path)} />
          {a.path !== baseName(a.path) && (
            <span className="soft clip">{a.path.slice(0, -baseName(a.path).length)}</span>
          )}
        </span>
        <span role="gridcell" className="figures">
          {a.width ? `${a.width} × ${a.height}` : ''}
        </span>
        <span role="gridcell">{a.format}</span>
        <span role="gridcell" className="figures">
          {bytes(a.bytes)}
        </span>
        <span role="gridcell" className="two">
          {a.problem && <span className={a.sha ? 'clip' : 'clip wrong'}>{problemWords[a.problem]}</span>}
          {a.seen && <span className="soft">seen before</span>}
        </span>
      </>
    );
  };

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has its twin in the buttons
    <div
      className={over ? 'dropping' : undefined}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => void onDrop(e)}
      style={{ display: 'contents' }}
    >
      {over && <div className="veil">Drop an archive, a folder or loose pictures</div>}
      <Bench
        rail={
          <>
            <h2 className="railhead">Deliveries</h2>
            {deliveries?.map((d) => (
              <Filter
                key={d.id}
                name={<DeliveryName d={d} />}
                count={d.lines}
                on={d.id === delivery?.id}
                onClick={() => go({ in: d.id, show: undefined, at: 0 })}
              />
            ))}
            {more && (
              <Button size="compact-xs" onClick={more}>
                Show older deliveries
              </Button>
            )}
            {delivery && (
              <>
                <h2 className="railhead">Lines</h2>
                {Object.entries(counts).map(([name, n]) => (
                  <Filter
                    key={name}
                    name={name === 'all' ? 'all' : (problemWords[name] ?? name)}
                    count={n}
                    on={show === name}
                    onClick={() => go({ show: name === 'all' ? undefined : name, at: 0 })}
                  />
                ))}
              </>
            )}
          </>
        }
        board={
          <>
            <GatherTop delivery={delivery} onFiles={(d) => void bring(d)} mayEdit={mayEdit} />
            {delivery && lines.length > 0 ? (
              <Board
                label={delivery.title}
                lines={lines.length}
                height={48}
                at={at}
                onAt={(n) => go({ at: n })}
                columns="44px minmax(120px, 1fr) 96px 52px 68px 132px"
                head={
                  <>
                    <span />
                    <span>File</span>
                    <span className="figures">Pixels</span>
                    <span>Type</span>
                    <span className="figures">Size</span>
                    <span>Worth a look</span>
                  </>
                }
                line={line}
                autoFocus
                onOpen={() => void navigate({ to: '/pair/$delivery', params: { delivery: String(delivery.id) } })}
              />
            ) : (
              <GatherEmpty none={deliveries?.length === 0} delivery={delivery} />
            )}
          </>
        }
        glass={<ArrivalGlass arrival={lines[at]} delivery={delivery} />}
      />
    </div>
  );
}

const matches = (a: Arrival, show: string) =>
  show === 'all' ||
  a.problem === show ||
  (show === 'pictures' && Boolean(a.sha)) ||
  (show === 'seen before' && Boolean(a.seen));

function tally(arrivals: Arrival[]) {
  const counts: Record<string, number> = { all: arrivals.length, pictures: 0 };
  for (const a of arrivals) {
    if (a.sha) counts.pictures = (counts.pictures ?? 0) + 1;
    if (a.seen) counts['seen before'] = (counts['seen before'] ?? 0) + 1;
    if (a.problem) counts[a.problem] = (counts[a.problem] ?? 0) + 1;
  }
  return counts;
}

function DeliveryName({ d }: { d: Delivery }) {
  return (
    <>
      {d.title}
      {stateWords[d.state] && <small>{stateWords[d.state]}</small>}
    </>
  );
}

interface TopProps {
  delivery?: Delivery;
  onFiles: (dropped: Dropped[]) => void;
  mayEdit: boolean;
}

function GatherTop({ delivery, onFiles, mayEdit }: TopProps) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const sending = useSending();
  const stop = useAsk(ask.stopDelivery, deliveryTouched);
  const mine = sending && sending.delivery === delivery?.id ? sending : null;
  const working = delivery && ['waiting', 'taking_in', 'stopping'].includes(delivery.state);
  return (
    <header className="top">
      <div className="row">
        <div className="grow">
          <h1>{delivery?.title ?? 'Gather'}</h1>
          {delivery && (
            <p className="soft">
              {plural(delivery.lines, 'line')} · {bytes(delivery.bytes)} · {when(delivery.createdAt)} · by{' '}
              {delivery.createdBy}
            </p>
          )}
        </div>
        {mayEdit && (
          <>
            <Button onClick={() => files.current?.click()}>Choose files</Button>
            <Button onClick={() => folder.current?.click()}>Choose a folder</Button>
          </>
        )}
        {delivery?.state === 'ready' && (
          <Link to="/pair/$delivery" params={{ delivery: String(delivery.id) }} className="button go">
            Pair it
          </Link>
        )}
        <input
          ref={files}
          type="file"
          multiple
          hidden
          data-testid="files"
          onChange={(e) => {
            onFiles(readChosen(e.currentTarget.files ?? new DataTransfer().files));
            e.currentTarget.value = '';
          }}
        />
        <input
          ref={folder}
          type="file"
          multiple
          hidden
          {...{ webkitdirectory: '' }}
          onChange={(e) => {
            onFiles(readChosen(e.currentTarget.files ?? new DataTransfer().files));
            e.currentTarget.value = '';
          }}
        />
      </div>
      {mine && (
        <div className="row">
          <Progress
            label={
              mine.state === 'stopped'
                ? 'Sending was stopped'
                : `Sending, ${bytes(mine.sentBytes)} of ${bytes(mine.bytes)}`
            }
            done={mine.state === 'sent' ? mine.files : mine.sent}
            of={mine.files}
          />
          {mine.state === 'sending' ? (
            <Button size="xs" onClick={stopSending}>
              Stop sending
            </Button>
          ) : (
            <Button size="xs" onClick={dismissSending}>
              Dismiss
            </Button>
          )}
        </div>
      )}
      {mine?.failed.map((f) => (
        <p key={f.path} className="wrong">
          {f.path}: {f.why}
        </p>
      ))}
      {working && (
        <div className="row">
          <Progress
            label={delivery.state !== 'waiting' ? 'Taking in' : sayAll(delivery.notes) ? 'Waits' : 'Waits its turn'}
            done={delivery.lines}
            of={delivery.expected}
          />
          <Button size="xs" disabled={delivery.state === 'stopping'} onClick={() => stop.mutate(delivery.id)}>
            Stop
          </Button>
        </div>
      )}
      {delivery && !mine && <Halted delivery={delivery} mayEdit={mayEdit} />}
      {delivery && (working || delivery.state === 'ready') && sayAll(delivery.notes) && (
        <p className="notice" role="status">
          {sayAll(delivery.notes)}
        </p>
      )}
    </header>
  );
}

function GatherEmpty({ none, delivery }: { none?: boolean; delivery?: Delivery }) {
  if (none) {
    return (
      <Empty title="No pictures have arrived yet.">
        <p>
          Drop an archive (zip, tar), a folder or loose pictures anywhere on this page, or choose them above. Each drop
          becomes a delivery; nothing is put on a product before you have seen the plan.
        </p>
      </Empty>
    );
  }
  if (!delivery) return <div className="hush">Reading the deliveries …</div>;
  if (delivery.lines > 0) return <Empty title="No line is of this kind." />;
  return <Empty title={delivery.state === 'ready' ? 'Nothing was in it.' : 'The first lines will show here.'} />;
}

function ArrivalGlass({ arrival, delivery }: { arrival?: Arrival; delivery?: Delivery }) {
  if (!arrival || !delivery) return null;
  return (
    <>
      <Look sha={arrival.sha} alt={arrival.path} />
      <p className="mono wrap">{arrival.path}</p>
      {say(arrival.message) && <p className="notice">{say(arrival.message)}</p>}
      {arrival.seen && (
        <p className="notice">The same picture, byte for byte, had arrived before. It is stored once.</p>
      )}
      <dl className="facts">
        {arrival.width ? (
          <div>
            <dt>Pixels</dt>
            <dd>
              {arrival.width} × {arrival.height}
            </dd>
          </div>
        ) : null}
        {arrival.format && (
          <div>
            <dt>Type</dt>
            <dd>{arrival.format}</dd>
          </div>
        )}
        <div>
          <dt>Size</dt>
          <dd>
            {bytes(arrival.bytes)} ({count(arrival.bytes)} bytes)
          </dd>
        </div>
        {arrival.sha && (
          <div>
            <dt>SHA-256</dt>
            <dd className="mono">{arrival.sha.slice(0, 16)}…</dd>
          </div>
        )}
      </dl>
    </>
  );
}
