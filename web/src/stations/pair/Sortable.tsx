import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  arrayMove,
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable';
import type { Line } from '../../api/client';
import { plainly } from '../../ui/Met';
import { Thumb } from '../../ui/Thumb';
import { t } from '../../words/words';
import { placeAt } from './order';

interface Props {
  order: Line[];
  owner: number;
  at: number;
  disabled: boolean;
  onOrder: (owner: number, arrivals: number[]) => void;
}

/** The pictures of one owner in their order, which can be dragged into another. */
export function Sortable({ order, owner, at, disabled, onOrder }: Props) {
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
        aria-label={t('pair.thumb', { path: plainly(line.path), place })}
        {...attributes}
        {...listeners}
      >
        <Thumb sha={line.sha} size={48} />
        <span className="figures">{place}</span>
      </button>
    </li>
  );
}
