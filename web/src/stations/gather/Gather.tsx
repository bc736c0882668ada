import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { type DragEvent, useMemo, useState } from 'react';
import type { Arrival, Delivery } from '../../api/client';
import { useDeliveries } from '../../api/pages';
import { arrivalsQuery, deliveryQuery } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import { complain } from '../../ui/complain';
import { Empty } from '../../ui/Empty';
import { FileName } from '../../ui/FileName';
import { Filter } from '../../ui/Filter';
import { baseName, bytes } from '../../ui/format';
import { useMayEdit } from '../../ui/Shell';
import { Thumb } from '../../ui/Thumb';
import { ArrivalGlass } from './ArrivalGlass';
import { type Dropped, readDrop } from './dropped';
import { GatherTop } from './GatherTop';
import { problemWords, stateWords } from './problems';
import { send } from './sending';
import './Gather.css';

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
