"use client";
import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Points } from "@/runs/draft/columns";
import { roundOver, type Corner, type Region } from "./region";
import { RegionList } from "./region-list";
import { axesOf, endsOf, HEIGHT, INKS, pointWords, ScatterPoints, WIDTH } from "./scatter";

/** A press that moves further than this draws a rectangle, else it sets a corner. Pixels. */
const DRAG = 6;

interface Props {
  readonly label: string;
  readonly axes: { readonly x: string; readonly y: string; readonly colour: string | undefined };
  readonly regions: readonly Region[];
  readonly onChange: (regions: readonly Region[]) => void;
  /** The points; undefined while they are read. */
  readonly found: Points | undefined;
  readonly failure: string | undefined;
}

/** A scatter of two columns in which regions are drawn and named. */
export function RegionDrawing({ label, axes, regions, onChange, found, failure }: Props) {
  const [open, setOpen] = useState<readonly Corner[]>([]);
  const [name, setName] = useState("");
  const svg = useRef<SVGSVGElement>(null);
  const press = useRef<Corner>(undefined);
  const [drag, setDrag] = useState<readonly [Corner, Corner]>();
  const { x: xName, y: yName } = axes;
  const layout = useMemo(
    () => axesOf({ x: xName, y: yName }, found, regions),
    [xName, yName, found, regions],
  );
  const [x0, x1] = endsOf(layout.x);
  const [y0, y1] = endsOf(layout.y);
  const at = (event: PointerEvent): Corner => {
    const box = svg.current?.getBoundingClientRect();
    return [
      ((event.clientX - (box?.left ?? 0)) * WIDTH) / (box?.width ?? WIDTH),
      ((event.clientY - (box?.top ?? 0)) * HEIGHT) / (box?.height ?? HEIGHT),
    ];
  };
  const toData = ([px, py]: Corner): Corner => [
    roundOver(layout.x.valueAt(px), x1 - x0),
    roundOver(layout.y.valueAt(py), y1 - y0),
  ];
  const finish = (corners: readonly Corner[]): void => {
    const named = name.trim() === "" ? `region ${regions.length + 1}` : name.trim();
    if (corners.length >= 3) onChange([...regions, { label: named, points: corners }]);
    setOpen([]);
    setName("");
  };
  const onUp = (event: PointerEvent): void => {
    const from = press.current;
    press.current = undefined;
    setDrag(undefined);
    if (!from) return;
    const to = at(event);
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) < DRAG) {
      setOpen((now) => [...now, toData(to)]);
      return;
    }
    const [a, b] = [toData(from), toData(to)];
    finish([a, [b[0], a[1]], b, [a[0], b[1]]]);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === "Enter") finish(open);
    else if (event.key === "Escape") setOpen([]);
    else if (event.key === "Backspace") setOpen((now) => now.slice(0, -1));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const addQuarter = (): void => {
    const [x, y] = [(x0 + x1) / 2, (y0 + y1) / 2];
    finish([
      [x0, y0],
      [x, y0],
      [x, y],
      [x0, y],
    ]);
  };
  const shape = (corners: readonly Corner[]): string =>
    corners.map(([x, y]) => `${layout.x.place(x)},${layout.y.place(y)}`).join(" ");
  return (
    <div className="flex flex-wrap gap-5">
      <div className="max-w-full">
        <svg
          ref={svg}
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          tabIndex={0}
          role="application"
          aria-label={`${label}: points of ${axes.x} and ${axes.y}. Click to set corners, Enter to close the region, or drag a rectangle.`}
          className="w-[560px] max-w-full cursor-crosshair touch-none select-none border border-rule bg-paper"
          onPointerDown={(event) => {
            press.current = at(event);
            event.currentTarget.focus();
          }}
          onPointerMove={(event) => {
            if (press.current) setDrag([press.current, at(event)]);
          }}
          onPointerUp={onUp}
          onKeyDown={onKeyDown}
          data-testid="regions"
        >
          <ScatterPoints found={found} layout={layout} />
          <DrawnRegions regions={regions} shape={shape} />
          {open.length > 0 && (
            <>
              <polyline
                points={shape(open)}
                fill="none"
                stroke="var(--madder)"
                strokeWidth={1.5}
                strokeDasharray="5 3"
              />
              {open.map(([x, y], index) => (
                <circle
                  key={index}
                  cx={layout.x.place(x)}
                  cy={layout.y.place(y)}
                  r={3.5}
                  fill="var(--madder)"
                />
              ))}
            </>
          )}
          {drag && (
            <rect
              x={Math.min(drag[0][0], drag[1][0])}
              y={Math.min(drag[0][1], drag[1][1])}
              width={Math.abs(drag[0][0] - drag[1][0])}
              height={Math.abs(drag[0][1] - drag[1][1])}
              fill="none"
              stroke="var(--madder)"
              strokeDasharray="5 3"
            />
          )}
        </svg>
        <p className="mt-1 max-w-[560px] text-caption text-faded">
          {failure ?? (found ? `${pointWords(found, axes.colour)}.` : "reading points …")}
        </p>
      </div>
      <div className="min-w-56 flex-1">
        <p className="mb-2 text-caption text-faded">
          Drag a rectangle, or click the corners and close with Enter. Escape discards open corners.
        </p>
        <label className="mb-2 block text-caption text-faded">
          Label of the next region
          <input
            className="field mt-0.5 block w-48"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        {open.length >= 3 && (
          <button type="button" className="press mb-2" onClick={() => finish(open)}>
            Close the region ({open.length} corners)
          </button>
        )}
        <RegionList regions={regions} onChange={onChange} onAdd={addQuarter} />
      </div>
    </div>
  );
}

/** Regions with their names; those of one label share a colour. */
function DrawnRegions({
  regions,
  shape,
}: {
  readonly regions: readonly Region[];
  readonly shape: (corners: readonly Corner[]) => string;
}) {
  const labels = [...new Set(regions.map(({ label }) => label))];
  return regions.map(({ label, points }, index) => {
    const ink = INKS[(labels.indexOf(label) + 1) % INKS.length];
    const [first] = shape(points.slice(0, 1)).split(" ");
    const [x = "0", y = "0"] = (first ?? "").split(",");
    return (
      <g key={index}>
        <polygon points={shape(points)} fill={ink} fillOpacity={0.12} stroke={ink} strokeWidth={1.5} />
        <text x={Number(x) + 4} y={Number(y) - 4} fontSize={12} fontWeight={600} fill="var(--ink)">
          {label}
        </text>
      </g>
    );
  });
}
