"use client";
import {
  DndContext,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { OctagonAlert, Plus } from "lucide-react";
import { Fragment, memo } from "react";
import type { Crossing } from "@/core/plan/braid";
import type { Problem } from "@/core/problem";
import { CROSSING_WIDTH } from "./geometry";

interface Props {
  readonly crossings: readonly Crossing[];
  readonly selected: number;
  readonly onChoose: (index: number) => void;
  /** A step was dragged onto another. */
  readonly onDrop: (from: number, onto: number) => void;
  readonly onInsertAfter: (index: number) => void;
}

/** A press that moves less than this is no drag. Pixels. */
const DRAG_DISTANCE = 6;

/** The steps' names above their crossings: chosen by a press, put elsewhere by a drag. They wrap; of a name over four lines the rest is shown once it is selected. Scrolling draws the rows anew many times a second; these stay as they are. */
export const CrossingNames = memo(function CrossingNames({
  crossings,
  selected,
  onChoose,
  onDrop,
  onInsertAfter,
}: Props) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: DRAG_DISTANCE } }));
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (over && over.id !== active.id) onDrop(Number(active.id), Number(over.id));
  };
  return (
    <DndContext sensors={sensors} onDragEnd={onDragEnd} id="crossings">
      {crossings.map((crossing) => (
        <Name
          key={`${crossing.strand}/${crossing.position}/${crossing.name}`}
          crossing={crossing}
          selected={crossing.index === selected}
          onChoose={onChoose}
          onInsertAfter={onInsertAfter}
        />
      ))}
    </DndContext>
  );
});

function titleOf({ sentence, note }: Crossing, errors: readonly Problem[]): string {
  if (errors.length > 0) return errors.map((error) => error.message).join("\n");
  return note ? `${sentence}\n${note}` : sentence;
}

function stateOf({ unready, off, title }: Crossing): string {
  if (unready) return "incomplete";
  return off ? "off" : title.toLowerCase();
}

function Name({
  crossing,
  selected,
  onChoose,
  onInsertAfter,
}: { readonly crossing: Crossing; readonly selected: boolean } & Pick<Props, "onChoose" | "onInsertAfter">) {
  const { setNodeRef: setDrag, listeners, transform, isDragging } = useDraggable({ id: crossing.index });
  const { setNodeRef: setDrop, isOver } = useDroppable({ id: crossing.index });
  const errors = crossing.problems.filter((problem) => problem.severity === "error");
  return (
    <div
      ref={setDrop}
      data-drop-here={(isOver && !isDragging) || undefined}
      className={`group relative flex shrink-0 ${isOver && !isDragging ? "bg-weft" : ""}`}
      style={{ width: CROSSING_WIDTH }}
    >
      <button
        ref={setDrag}
        {...listeners}
        type="button"
        tabIndex={-1}
        onClick={() => onChoose(crossing.index)}
        title={titleOf(crossing, errors)}
        aria-pressed={selected}
        style={
          transform
            ? { transform: `translate3d(${transform.x}px, 0, 0)`, zIndex: 30, position: "relative" }
            : undefined
        }
        className={`flex w-full flex-col justify-end px-1 py-1.5 text-center text-caption leading-tight ${isDragging ? "cursor-grabbing border border-ink bg-paper" : ""} ${selected ? "bg-paper font-semibold text-madder" : "hover:bg-paper"} ${crossing.off ? "text-faded" : ""}`}
      >
        <span
          className={`break-words ${selected ? "" : "line-clamp-4"} ${crossing.off ? "line-through" : ""}`}
        >
          {errors.length > 0 && (
            <OctagonAlert size={12} className="mr-0.5 inline text-madder" aria-label="has errors" />
          )}
          <BreakableName name={crossing.name} />
        </span>
        <span className="text-caption font-normal text-faded">{stateOf(crossing)}</span>
      </button>
      <button
        type="button"
        tabIndex={-1}
        aria-label={`Add a step after ${crossing.name}`}
        title="Add a step here (i)"
        onClick={() => onInsertAfter(crossing.index)}
        className={`absolute -right-2 bottom-1 z-10 rounded-sm border border-rule bg-paper text-faded hover:border-ink hover:text-ink group-hover:opacity-100 ${selected ? "opacity-100" : "opacity-0"}`}
      >
        <Plus size={13} aria-hidden />
      </button>
    </div>
  );
}

/** A name that breaks after underscores before it breaks within a word. */
const BreakableName = ({ name }: { readonly name: string }) =>
  name.split(/(?<=_)/).map((part, index) => (
    <Fragment key={index}>
      {index > 0 && <wbr />}
      {part}
    </Fragment>
  ));
