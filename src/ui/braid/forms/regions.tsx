"use client";
import { formatNumber, roundSignificant } from "@/core/format/numbers";
import { max, min } from "d3-array";
import { scaleLinear } from "d3-scale";
import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Points } from "@/runs/draft/columns";

import { useAnswer } from "../../draft/use-answer";
import { Listed } from "./controls";
import { TypedText } from "./typed-text";
import { useForm } from "./form-context";

type Corner = readonly [number, number];

interface Region {
  readonly label: string;
  readonly points: readonly Corner[];
}

const WIDTH = 560;
const HEIGHT = 320;
const EDGE = { left: 52, right: 8, top: 8, bottom: 26 };
const INKS = ["var(--woad)", "var(--madder)", "var(--moss)", "var(--plum)", "var(--weld)", "var(--faded)"];
/** Signs for points, so that a colour is never alone. */
const SIGNS = ["●", "▲", "■", "◆", "✚", "○"];
const MOST_COLOURS = INKS.length - 1;
/** A press that moves further than this draws a rectangle, else it sets a corner. Pixels. */
const DRAG = 6;

const round = (value: number, span: number): number =>
  roundSignificant(
    value,
    Math.max(3, Math.ceil(Math.log10(Math.abs(value) / Math.max(span, 1e-12) + 1)) + 3),
  );
const regionsOf = (value: unknown): readonly Region[] =>
  Array.isArray(value) ? (value as readonly Region[]).filter((each) => Array.isArray(each.points)) : [];

/** A scatter of two columns in which regions are drawn and named. */
export function Regions({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}) {
  const { place, settings, columns } = useForm();
  const known = (name: unknown): string | undefined =>
    typeof name === "string" && columns.some((each) => each.name === name) ? name : undefined;
  const x = known(settings["x"]);
  const y = known(settings["y"]);
  const colour = known(settings["colour"]);
  const { value: found, failure } = useAnswer<Points>(
    "points",
    x === undefined || y === undefined
      ? undefined
      : ({ ...place, x, y, ...(colour === undefined ? {} : { colour }) } as never),
  );
  const regions = useMemo(() => regionsOf(value), [value]);
  const [open, setOpen] = useState<readonly Corner[]>([]);
  const [name, setName] = useState("");
  const svg = useRef<SVGSVGElement>(null);
  const press = useRef<Corner>(undefined);
  const [drag, setDrag] = useState<readonly [Corner, Corner]>();
  const scales = useMemo(() => {
    const points = found?.points ?? [];
    const corners = regions.flatMap((each) => each.points);
    const domain = (at: 0 | 1): [number, number] => {
      const all = [...points.map((each) => each[at]), ...corners.map((each) => each[at])];
      const low = min(all) ?? 0;
      const high = max(all) ?? 1;
      return low === high ? [low - 1, high + 1] : [low, high];
    };
    return {
      x: scaleLinear(domain(0), [EDGE.left, WIDTH - EDGE.right]).nice(),
      y: scaleLinear(domain(1), [HEIGHT - EDGE.bottom, EDGE.top]).nice(),
    };
  }, [found, regions]);
  const colours = useMemo(
    () => [...new Set((found?.points ?? []).map((each) => each[2]))].sort().slice(0, MOST_COLOURS),
    [found],
  );
  if (x === undefined || y === undefined)
    return <p className="text-faded">Choose the columns for x and y; then their points are drawn here.</p>;
  const span = (scale: typeof scales.x): number =>
    Math.abs((scale.domain()[1] ?? 1) - (scale.domain()[0] ?? 0));
  const at = (event: PointerEvent): Corner => {
    const box = svg.current?.getBoundingClientRect();
    return [
      ((event.clientX - (box?.left ?? 0)) * WIDTH) / (box?.width ?? WIDTH),
      ((event.clientY - (box?.top ?? 0)) * HEIGHT) / (box?.height ?? HEIGHT),
    ];
  };
  const toData = ([px, py]: Corner): Corner => [
    round(scales.x.invert(px), span(scales.x)),
    round(scales.y.invert(py), span(scales.y)),
  ];
  const put = (next: readonly Region[]): void =>
    onChange(
      next.length === 0
        ? undefined
        : next.map((each) => ({ label: each.label, points: each.points.map((corner) => [...corner]) })),
    );
  const finish = (corners: readonly Corner[]): void => {
    if (corners.length >= 3)
      put([
        ...regions,
        { label: name.trim() === "" ? `region ${regions.length + 1}` : name.trim(), points: corners },
      ]);
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
  const shape = (corners: readonly Corner[]): string =>
    corners.map(([px, py]) => `${scales.x(px)},${scales.y(py)}`).join(" ");
  // Groups beyond the few that are told apart share the last, quiet sign.
  const ink = (group: string | null): number => {
    const at = colours.indexOf(group);
    return at < 0 ? MOST_COLOURS : at;
  };
  const labels = [...new Set(regions.map((each) => each.label))];
  return (
    <div className="flex flex-wrap gap-5">
      <div>
        <svg
          ref={svg}
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          width={WIDTH}
          height={HEIGHT}
          tabIndex={0}
          role="application"
          aria-label={`${label}: points of ${x} and ${y}. Press to set corners, Enter to close the region, or drag a rectangle.`}
          className="cursor-crosshair touch-none select-none border border-rule bg-paper"
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
          {scales.x.ticks(6).map((tick) => (
            <text
              key={tick}
              x={scales.x(tick)}
              y={HEIGHT - 10}
              textAnchor="middle"
              fontSize={10}
              fill="var(--faded)"
            >
              {formatNumber(tick)}
            </text>
          ))}
          {scales.y.ticks(6).map((tick) => (
            <text
              key={tick}
              x={EDGE.left - 6}
              y={scales.y(tick) + 3}
              textAnchor="end"
              fontSize={10}
              fill="var(--faded)"
            >
              {formatNumber(tick)}
            </text>
          ))}
          {(found?.points ?? []).map(([px, py, group], index) => (
            <text
              key={index}
              x={scales.x(px)}
              y={scales.y(py) + 2}
              fontSize={5.5}
              textAnchor="middle"
              fill={INKS[ink(group)]}
              opacity={0.75}
              pointerEvents="none"
            >
              {SIGNS[ink(group)]}
            </text>
          ))}
          {regions.map((each, index) => (
            <g key={index}>
              <polygon
                points={shape(each.points)}
                fill={INKS[(labels.indexOf(each.label) + 1) % INKS.length]}
                fillOpacity={0.12}
                stroke={INKS[(labels.indexOf(each.label) + 1) % INKS.length]}
                strokeWidth={1.5}
              />
              <text
                x={scales.x(each.points[0]?.[0] ?? 0) + 4}
                y={scales.y(each.points[0]?.[1] ?? 0) - 4}
                fontSize={12}
                fontWeight={600}
                fill="var(--ink)"
              >
                {each.label}
              </text>
            </g>
          ))}
          {open.length > 0 && (
            <>
              <polyline
                points={shape(open)}
                fill="none"
                stroke="var(--madder)"
                strokeWidth={1.5}
                strokeDasharray="5 3"
              />
              {open.map((corner, index) => (
                <circle
                  key={index}
                  cx={scales.x(corner[0])}
                  cy={scales.y(corner[1])}
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
        <p className="mt-1 max-w-[560px] text-xs text-faded">
          {failure ??
            (found
              ? `${found.points.length < found.total ? `${formatNumber(found.points.length)} of ${formatNumber(found.total)} points, spread by a hash` : `${formatNumber(found.total)} points`}${colours.length > 0 && colour ? `; ${colour}: ${colours.map((each) => `${SIGNS[ink(each)] ?? ""} ${each ?? "missing"}`).join("  ")}${(found?.points ?? []).some((each) => !colours.includes(each[2])) ? `  ${SIGNS[MOST_COLOURS] ?? ""} others` : ""}` : ""}. ${x} to the right, ${y} upwards.`
              : "reading points …")}
        </p>
      </div>
      <div className="min-w-56 flex-1">
        <p className="mb-2 text-sm text-faded">
          Drag a rectangle, or press corner by corner and close with Enter. Escape forgets the open corners.
        </p>
        <label className="mb-2 block text-sm text-faded">
          Name of the next region
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
        <Listed
          add="region by its corners"
          onAdd={() => {
            const [x0, x1] = scales.x.domain() as [number, number];
            const [y0, y1] = scales.y.domain() as [number, number];
            finish([
              [x0, y0],
              [(x0 + x1) / 2, y0],
              [(x0 + x1) / 2, (y0 + y1) / 2],
              [x0, (y0 + y1) / 2],
            ]);
          }}
        >
          {regions.map((each, index) => (
            <div key={index} className="flex items-center gap-2">
              <div className="w-32">
                <TypedText
                  label={`Region ${index + 1}`}
                  value={each.label}
                  onChange={(text) =>
                    put(
                      regions.map((other, where) =>
                        where === index && text !== "" ? { ...other, label: text } : other,
                      ),
                    )
                  }
                />
              </div>
              <span className="text-xs text-faded">{each.points.length} corners</span>
              <button
                type="button"
                className="press press-quiet px-1"
                onClick={() => put(regions.filter((_, where) => where !== index))}
              >
                Remove
              </button>
            </div>
          ))}
        </Listed>
      </div>
    </div>
  );
}
