import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useNavigate, useSearch } from '@tanstack/react-router';
import { useMemo, useState } from 'react';
import type { Arrival, Delivery } from '../../api/client';
import { useDeliveries, type Wanted } from '../../api/pages';
import { arrivalsQuery, deliveryQuery } from '../../api/queries';
import { Bench } from '../../ui/Bench';
import { Board } from '../../ui/Board';
import type { Column } from '../../ui/columns';
import { complain } from '../../ui/complain';
import { copy } from '../../ui/copy';
import { DropArea } from '../../ui/DropArea';
import { type Dropped, readDrop } from '../../ui/dropped';
import { Empty } from '../../ui/Empty';
import { FileName } from '../../ui/FileName';
import { Filter } from '../../ui/Filter';
import { baseName, bytes } from '../../ui/format';
import { plainly } from '../../ui/Met';
import { openPicture } from '../../ui/openPicture';
import { send } from '../../ui/sending';
import { useMayEdit } from '../../ui/session';
import { Thumb } from '../../ui/Thumb';
import { useFocus } from '../../ui/useFocus';
import { useTitle } from '../../ui/useTitle';
import { named, t } from '../../words/words';
import { SourceRail } from '../sources/SourceRail';
import { ArrivalGlass } from './ArrivalGlass';
import { FindDelivery } from './FindDelivery';
import { GatherTop } from './GatherTop';
import './Gather.css';

/** The station where files come in: deliveries, and what is in the one in hand. */
export function Gather() {
  const search = useSearch({ from: '/gather' });
  const navigate = useNavigate({ from: '/gather' });
  const mayEdit = useMayEdit();
  const [wanted, setWanted] = useState<Wanted>({ closed: 'no' });
  const { all: deliveries, more } = useDeliveries(wanted);
  const listed = search.in ? deliveries?.find((d) => d.id === search.in) : deliveries?.[0];
  const older = useQuery(deliveryQuery(deliveries && search.in && !listed ? search.in : 0)).data;
  const delivery = listed ?? older ?? deliveries?.[0];
  const arrivals = useQuery(arrivalsQuery(delivery?.id ?? 0)).data;
  const filtered = Boolean(wanted.q || wanted.state || wanted.supplier || wanted.closed === 'yes');
  useTitle('gather', delivery?.title);
  const show = search.show ?? 'all';
  const lines = useMemo(() => (arrivals ?? []).filter((a) => matches(a, show)), [arrivals, show]);
  // What is a picture has the focus first: what lies beside it comes behind.
  const at = useFocus(lines, search.at ?? lines.find((a) => a.sha)?.id);
  const cols = useMemo(columns, []);
  const counts = useMemo(() => tally(arrivals ?? []), [arrivals]);
  const go = (part: { in?: number; show?: string; at?: number }) =>
    void navigate({ search: (s) => ({ ...s, ...part }), replace: true });

  const bring = async (dropped: Dropped[]) => {
    if (dropped.length === 0) return;
    try {
      const into = delivery?.state === 'open' ? { id: delivery.id, title: delivery.title } : undefined;
      go({ in: await send(dropped, into), show: undefined, at: undefined });
    } catch (error) {
      complain(error);
    }
  };
  const pair = () =>
    void navigate({
      to: '/pair/$delivery',
      params: { delivery: String(delivery?.id) },
      search: { at: lines[at]?.sha ? lines[at].id : undefined, rule: delivery?.rule },
    });
  const acts = (a: Arrival) => [
    { name: t('gather.pair'), key: 'Enter', does: pair },
    { name: t('act.copy_name'), key: 'Ctrl C', does: () => void copy(baseName(a.path)) },
    { name: t('look.open'), does: () => openPicture(a.sha), off: !a.sha },
  ];

  return (
    <DropArea says={t('gather.drop')} off={!mayEdit} onDrop={(from) => void readDrop(from).then(bring)}>
      <Bench
        rail={
          <>
            <SourceRail />
            <h2 className="railhead">{t('gather.deliveries')}</h2>
            <FindDelivery wanted={wanted} onWanted={setWanted} />
            {deliveries?.map((d) => (
              <Filter
                key={d.id}
                name={<DeliveryName d={d} />}
                count={d.lines}
                on={d.id === delivery?.id}
                onClick={() => go({ in: d.id, show: undefined, at: undefined })}
              />
            ))}
            {more && (
              <Button size="compact-xs" onClick={more}>
                {t('gather.older')}
              </Button>
            )}
            {delivery && (
              <>
                <h2 className="railhead">{t('gather.lines')}</h2>
                {Object.entries(counts).map(([name, n]) => (
                  <Filter
                    key={name}
                    name={kindName(name)}
                    count={n}
                    on={show === name}
                    onClick={() => go({ show: name === 'all' ? undefined : name, at: undefined })}
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
                name="gather"
                label={delivery.title}
                lines={lines}
                columns={cols}
                at={at}
                onAt={(n) => go({ at: lines[n]?.id })}
                autoFocus
                onOpen={pair}
                acts={acts}
              />
            ) : (
              <GatherEmpty none={deliveries?.length === 0} filtered={filtered} delivery={delivery} />
            )}
          </>
        }
        glass={<ArrivalGlass arrival={lines[at]} delivery={delivery} />}
      />
    </DropArea>
  );
}

const matches = (a: Arrival, show: string) =>
  show === 'all' ||
  a.problem === show ||
  (show === 'pictures' && Boolean(a.sha)) ||
  (show === 'seen' && Boolean(a.seen));

function tally(arrivals: Arrival[]) {
  const counts: Record<string, number> = { all: arrivals.length, pictures: 0 };
  for (const a of arrivals) {
    if (a.sha) counts.pictures = (counts.pictures ?? 0) + 1;
    if (a.seen) counts.seen = (counts.seen ?? 0) + 1;
    if (a.problem) counts[a.problem] = (counts[a.problem] ?? 0) + 1;
  }
  return counts;
}

function DeliveryName({ d }: { d: Delivery }) {
  return (
    <>
      {d.title}
      {d.state !== 'ready' && <small>{named(`state.${d.state}`)}</small>}
    </>
  );
}

function GatherEmpty({ none, filtered, delivery }: { none?: boolean; filtered: boolean; delivery?: Delivery }) {
  if (none && filtered) return <Empty title={t('gather.none_found')} />;
  if (none) {
    return (
      <Empty title={t('gather.none')}>
        <p>{t('gather.none_what')}</p>
      </Empty>
    );
  }
  if (!delivery) return <div className="hush">{t('gather.reading')}</div>;
  if (delivery.lines > 0) return <Empty title={t('gather.no_such')} />;
  return <Empty title={delivery.state === 'ready' ? t('gather.nothing') : t('gather.soon')} />;
}

const kindName = (kind: string) =>
  kind === 'all' || kind === 'pictures' ? t(`gather.${kind}`) : named(`problem.${kind}`) || kind;

/** What is seen of an arrival. */
const columns = (): Column<Arrival>[] => [
  {
    id: 'picture',
    name: t('column.picture'),
    quiet: true,
    fixed: true,
    width: '44px',
    cell: (a) => <Thumb sha={a.sha} size={36} />,
  },
  {
    id: 'file',
    name: t('column.file'),
    fixed: true,
    width: 'minmax(120px, 1fr)',
    className: 'two',
    cell: (a) => {
      const name = baseName(a.path);
      return (
        <>
          <FileName name={name} />
          {a.path !== name && <span className="soft clip">{plainly(a.path.slice(0, -name.length))}</span>}
        </>
      );
    },
  },
  {
    id: 'pixels',
    name: t('column.pixels'),
    width: '96px',
    figures: true,
    wide: true,
    cell: (a) => (a.width ? `${a.width} × ${a.height}` : ''),
    text: (a) => (a.width ? `${a.width} × ${a.height}` : ''),
  },
  {
    id: 'type',
    name: t('column.type'),
    width: '52px',
    wide: true,
    cell: (a) => a.format,
    text: (a) => a.format,
  },
  {
    id: 'size',
    name: t('column.size'),
    width: '68px',
    figures: true,
    wide: true,
    cell: (a) => bytes(a.bytes),
    text: (a) => a.bytes,
  },
  {
    id: 'look',
    name: t('column.look'),
    width: '132px',
    className: 'two',
    text: (a) => [a.problem && named(`problem.${a.problem}`), a.seen && t('problem.seen')].filter(Boolean).join('; '),
    cell: (a) => (
      <>
        {a.problem && <span className={a.sha ? 'clip' : 'clip wrong'}>{named(`problem.${a.problem}`)}</span>}
        {a.seen && <span className="soft">{t('problem.seen')}</span>}
      </>
    ),
  },
];
