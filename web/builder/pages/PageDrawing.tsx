import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
  type UniqueIdentifier,
} from '@dnd-kit/core';
import { rectSortingStrategy, SortableContext, sortableKeyboardCoordinates, useSortable } from '@dnd-kit/sortable';
import { GripVertical } from 'lucide-react';
import type { Page } from '../../../core/definition/definition';
import { sectionWidths, type Section, type SectionWidth } from '../../../core/definition/section-kinds';
import { sectionEdits } from '../../../sections/edit';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';

type Width = SectionWidth | 'full';
const widths: readonly Width[] = ['full', ...sectionWidths.toReversed()];
const spans: Record<Width, string> = {
  full: 'col-span-6',
  'two thirds': 'col-span-4',
  half: 'col-span-3',
  third: 'col-span-2',
};

/**
 * The page in small, as it stands where there is room: sections are moved by their handle, with the pointer or
 * by space and arrows, made wider or narrower by a press, and lead to what is set of them.
 */
export default function PageDrawing({
  page,
  onOrder,
  onWidth,
}: {
  page: Page;
  onOrder: (moved: string, to: number) => void;
  onWidth: (section: string, width: Width) => void;
}) {
  const { draft } = useBench();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = page.sections.map(({ id }) => id);
  const called = (id: UniqueIdentifier): string => {
    const section = page.sections.find((each) => each.id === id);
    return section ? sectionEdits[section.kind]!.called(section, draft) : '';
  };
  const place = (id: UniqueIdentifier) => `place ${ids.indexOf(String(id)) + 1} of ${ids.length}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => `${called(active.id)} is picked up, at ${place(active.id)}.`,
    // Right after it is picked up it is over its own place.
    onDragOver: ({ active, over }) =>
      over
        ? `${called(active.id)} ${over.id === active.id ? 'is picked up, at' : 'goes to'} ${place(over.id)}.`
        : undefined,
    onDragEnd: ({ active, over }) => (over ? `${called(active.id)} is put down at ${place(over.id)}.` : undefined),
    onDragCancel: ({ active }) => `${called(active.id)} stays at ${place(active.id)}.`,
  };
  return (
    <section aria-label="The page in small" className="rounded-stone border border-line bg-ground p-3">
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={({ active, over }) => {
          if (over && over.id !== active.id) onOrder(String(active.id), ids.indexOf(String(over.id)));
        }}
        accessibility={{
          announcements,
          screenReaderInstructions: {
            draggable: 'Space picks the section up, arrows move it, space puts it down, and Escape leaves it.',
          },
        }}
      >
        <SortableContext items={ids} strategy={rectSortingStrategy}>
          <ol className="grid grid-cols-6 gap-2">
            {page.sections.map((section) => (
              <Block key={section.id} section={section} called={called(section.id)} onWidth={onWidth} />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
    </section>
  );
}

function Block({
  section,
  called,
  onWidth,
}: {
  section: Section;
  called: string;
  onWidth: (section: string, width: Width) => void;
}) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: section.id,
  });
  const [, setAddress] = useAddress();
  const width = section.width ?? 'full';
  return (
    <li
      ref={setNodeRef}
      className={
        `${spans[width]} flex min-h-11 min-w-0 items-center gap-1 rounded-stone border bg-paper ` +
        `${isDragging ? 'z-10 border-water shadow-lg' : 'border-line-strong'}`
      }
      // Pieces are of different widths: they are moved, never stretched.
      style={{ transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined, transition }}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        aria-label={`Move ${called}`}
        className="grid h-11 w-7 shrink-0 cursor-grab touch-none place-items-center text-soft hover:text-ink"
      >
        <GripVertical size={15} aria-hidden />
      </button>
      <button
        type="button"
        className="min-w-0 flex-1 truncate py-1 text-left text-sm font-semibold hover:underline"
        onClick={() => setAddress((address) => address.set('section', section.id))}
      >
        {section.title ?? called}
        {section.title && <span className="ml-2 font-normal text-soft">{called}</span>}
      </button>
      <button
        type="button"
        aria-label={`Width of ${called}: ${width}. Change it`}
        className="min-h-8 shrink-0 px-2 text-xs text-soft hover:text-ink"
        onClick={() => onWidth(section.id, widths[(widths.indexOf(width) + 1) % widths.length]!)}
      >
        {width}
      </button>
    </li>
  );
}
