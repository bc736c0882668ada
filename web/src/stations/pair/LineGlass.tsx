import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  arrayMove,
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable';
import { Link } from '@tanstack/react-router';
import { useMemo } from 'react';
import type { Line, Owner } from '../../api/client';
import { bytes } from '../../ui/format';
import { Look } from '../../ui/Look';
import { Met } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { brief, say, sayAll } from '../../words/messages';
import { keyMet } from './keyMet';
import { placeAt, siblings } from './order';
import './LineGlass.css';

interface Props {
  line: Line;
  lines: Line[];
  owners: Map<number, Owner>;
  mayEdit: boolean;
  onAccept: (owner?: number) => void;
  onSearch: () => void;
  onAcceptAll: () => void;
  onShare: () => void;
  onUnshare: (owner: number) => void;
  onAside: () => void;
  onOrder: (owner: number, arrivals: number[]) => void;
}

/** The line in focus: the picture large beside what the owner has now, why it was paired, and what to do. */
export function LineGlass({
  line,
  lines,
  owners,
  mayEdit,
  onAccept,
  onAcceptAll,
  onSearch,
  onShare,
  onUnshare,
  onAside,
  onOrder,
}: Props) {
  const owner = owners.get(line.owner ?? 0);
  const order = useMemo(() => (line.owner ? siblings(lines, line.owner) : []), [lines, line.owner]);
  const there = owner?.now[(line.place ?? 1) - 1];
  return (
    <>
      <div className="beside">
        <Look sha={line.sha} alt={line.path} />
        {owner && (
          <div className="now">
            <span className="soft">now at {line.place}</span>
            {there ? <Thumb sha={there} size={84} alt="" /> : <span className="thumb none empty84">empty</span>}
            {owner.now.length > 0 && (
              <span className="soft">{owner.now.length === 1 ? 'its only one' : `of ${owner.now.length}`}</span>
            )}
          </div>
        )}
      </div>
      {owner && order.length > 1 && (
        <>
          <h3>Order for this owner</h3>
          <Sortable order={order} owner={owner.id} at={line.id} disabled={!mayEdit} onOrder={onOrder} />
        </>
      )}
      {say(line.message) && <p className="notice">{say(line.message)}</p>}
      {owner?.now.includes(line.sha ?? '') && <p className="notice">This picture is already on this owner.</p>}
      {line.colour && <p className="notice">{line.colour} Please check the colour.</p>}
      {line.alike && (
        <p className="notice row">
          <Thumb sha={line.alike} size={48} alt="the owner’s picture" />
          <span>The owner has one that looks the same, in another file.</span>
        </p>
      )}
      <h3>{line.person ? 'Decided by hand' : owner ? 'Why this owner' : 'What the name says'}</h3>
      <p className="mono wrap">
        <Met text={line.path} spans={line.spans} />
      </p>
      {owner && (
        <p>
          <Link to="/catalogue/$product" params={{ product: String(owner.id) }} className="mono">
            <Met {...keyMet(line, owner)} />
          </Link>
          <br />
          {owner.label}
        </p>
      )}
      <p>
        {line.person
          ? `${line.aside ? 'Set aside' : 'Paired'} by ${line.person}. The names say: ${sayAll(line.why)}`
          : sayAll(line.why)}
      </p>
      {(line.also?.length ?? 0) > 0 && (
        <>
          <h3>Also for</h3>
          <ul className="plain">
            {line.also?.map((a) => (
              <li key={a.owner} className="row">
                <span className="grow">
                  <b className="mono">{owners.get(a.owner)?.sku}</b> <span className="soft">at {a.place}</span>
                  <br />
                  <span className="soft">{owners.get(a.owner)?.label}</span>
                </span>
                {mayEdit && (
                  <button type="button" className="linkish" onClick={() => onUnshare(a.owner)}>
                    Take off
                  </button>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {line.sha && (
        <p className="soft figures">
          {line.width} × {line.height} · {bytes(line.bytes)} · {line.format}
          {line.seen ? ' · seen before' : ''}
        </p>
      )}
      {mayEdit && line.sha && (
        <div className="choices">
          {line.candidates?.map((c, i) => (
            <button type="button" key={`${c.owner}-${c.fit}-${c.number}`} onClick={() => onAccept(c.owner)}>
              <span className="grow">
                <b className="mono">{owners.get(c.owner)?.sku}</b>
                {c.number !== undefined && `, number ${c.number}`}
                <br />
                <span className="soft">{owners.get(c.owner)?.label}</span>
                {c.differs && (
                  <>
                    <br />
                    <span className="differs">{brief(c.differs)}</span>
                  </>
                )}
              </span>
              <kbd>{i + 1}</kbd>
            </button>
          ))}
          {line.grade === 'contested' && (line.candidates?.length ?? 0) > 1 && (
            <button type="button" onClick={onAcceptAll}>
              <span className="grow">
                {line.candidates?.length === 2
                  ? 'Both of them get it'
                  : `All ${line.candidates?.length} of them get it`}
              </span>
              <kbd>b</kbd>
            </button>
          )}
          {owner && !line.person && (
            <button type="button" className="first" onClick={() => onAccept()}>
              <span className="grow">Accept, place {line.place}</span>
              <kbd>Enter</kbd>
            </button>
          )}
          <button type="button" onClick={onSearch}>
            <span className="grow">Another owner …</span>
            <kbd>s</kbd>
          </button>
          {owner && (
            <button type="button" onClick={onShare}>
              <span className="grow">Also for another owner …</span>
              <kbd>a</kbd>
            </button>
          )}
          {!line.aside && (
            <button type="button" onClick={onAside}>
              <span className="grow">Set aside</span>
              <kbd>x</kbd>
            </button>
          )}
        </div>
      )}
    </>
  );
}

interface SortableProps {
  order: Line[];
  owner: number;
  at: number;
  disabled: boolean;
  onOrder: (owner: number, arrivals: number[]) => void;
}

function Sortable({ order, owner, at, disabled, onOrder }: SortableProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (!over || active.id === over.id) return;
        const from = order.findIndex((l) => l.id === active.id);
        const to = order.findIndex((l) => l.id === over.id);
        onOrder(
          owner,
          arrayMove(order, from, to).map((l) => l.id),
        );
      }}
    >
      <SortableContext items={order.map((l) => l.id)} strategy={horizontalListSortingStrategy} disabled={disabled}>
        <ol className="order">
          {order.map((l) => (
            <SortableThumb key={l.id} line={l} place={placeAt(l, owner)} current={l.id === at} />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

function SortableThumb({ line, place, current }: { line: Line; place: number; current: boolean }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: line.id });
  return (
    <li>
      <button
        type="button"
        ref={setNodeRef}
        className={current ? 'current' : undefined}
        style={{ transform: transform ? `translateX(${transform.x}px)` : undefined, transition }}
        aria-label={`${line.path}, place ${place}`}
        {...attributes}
        {...listeners}
      >
        <Thumb sha={line.sha} size={48} />
        <span className="figures">{place}</span>
      </button>
    </li>
  );
}
