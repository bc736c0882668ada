import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  arrayMove,
  rectSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable';
import { Thumb } from './Thumb';

/** A picture in an order. */
export interface Placed {
  id: string | number;
  sha: string;
  /** What is said of it to who does not see it. */
  label: string;
  place: number;
  current: boolean;
  fresh?: boolean;
}

interface Props {
  pictures: Placed[];
  disabled: boolean;
  onOrder: (ids: (string | number)[]) => void;
  onPick?: (id: string | number) => void;
}

/** Pictures in their order, which can be dragged into another, also by the keyboard. */
export function Sorted({ pictures, disabled, onOrder, onPick }: Props) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = pictures.map((p) => p.id);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (!over || active.id === over.id) return;
        onOrder(arrayMove(ids, ids.indexOf(active.id), ids.indexOf(over.id)));
      }}
    >
      <SortableContext items={ids} strategy={rectSortingStrategy} disabled={disabled}>
        <ol className="order">
          {pictures.map((p) => (
            <One key={p.id} {...p} onPick={onPick} />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}

function One({ id, sha, label, place, current, fresh, onPick }: Placed & { onPick?: Props['onPick'] }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id });
  return (
    <li className={fresh ? 'fresh' : undefined}>
      <button
        type="button"
        ref={setNodeRef}
        className={current ? 'current' : undefined}
        style={{ transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined, transition }}
        aria-label={label}
        {...attributes}
        {...listeners}
        onClick={() => onPick?.(id)}
      >
        <Thumb sha={sha} size={48} />
        <span className="figures">{place}</span>
      </button>
    </li>
  );
}
