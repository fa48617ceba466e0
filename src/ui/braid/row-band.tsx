import { formatNumber } from "@/core/format/numbers";
import { memo } from "react";
import type { Braid, BraidGroup } from "@/core/plan/braid";

import { countKey, CROSSING_WIDTH, crossingX, GROUP_HEIGHT } from "./geometry";
import type { Counts } from "./use-counts";

const TOP = 18;
const MOST = GROUP_HEIGHT - TOP - 4;

/** A number this far left would lie over the first one. */
const NARROW = 60;

interface Place {
  readonly x: number;
  readonly rows: number | undefined;
  readonly guessed: boolean;
}

/** A strand's rows as a band that narrows where rows are lost and swells where they multiply, with the exact numbers. */
export const RowBand = memo(function RowBand({
  braid,
  group,
  width,
  counts,
  selected,
}: {
  readonly braid: Braid;
  readonly group: BraidGroup;
  readonly width: number;
  readonly counts: ReadonlyMap<string, Counts>;
  readonly selected: number;
}) {
  const own = braid.crossings.filter((each) => each.strand === group.strand);
  const rowsAfter = (after: number): number | undefined => counts.get(countKey(group.strand, after))?.rows;
  const guessed = (after: number): boolean => counts.get(countKey(group.strand, after))?.estimated === true;
  const places: Place[] = [
    { x: 0, rows: rowsAfter(0), guessed: guessed(0) },
    ...own.map((each) => ({
      x: crossingX(each.index),
      rows: rowsAfter(each.position + 1),
      guessed: guessed(each.position + 1),
    })),
  ];
  const end = group.main
    ? crossingX(braid.crossings.length - 1) + CROSSING_WIDTH
    : (places.at(-1)?.x ?? 0) + CROSSING_WIDTH * 0.8;
  const most = Math.max(1, ...places.map((each) => each.rows ?? 0));
  const thickness = (rows: number | undefined): number =>
    rows === undefined ? 2 : Math.max(rows === 0 ? 0.5 : 1.5, (rows / most) * MOST);
  const y = (rows: number | undefined, side: -1 | 1): number => TOP + MOST / 2 + (side * thickness(rows)) / 2;
  const edges = places.map((each, index) => ({
    from: each.x,
    to: places[index + 1]?.x ?? end,
    rows: each.rows,
  }));
  const upper = edges.flatMap((each) => [
    `${each.from},${y(each.rows, -1)}`,
    `${Math.max(each.from, each.to - 8)},${y(each.rows, -1)}`,
  ]);
  const lower = [...edges]
    .reverse()
    .flatMap((each) => [
      `${Math.max(each.from, each.to - 8)},${y(each.rows, 1)}`,
      `${each.from},${y(each.rows, 1)}`,
    ]);
  return (
    <svg
      width={width}
      height={GROUP_HEIGHT}
      className="block"
      role="img"
      aria-label={`Rows of ${group.strand}: ${places.map((each) => formatNumber(each.rows)).join(", then ")}`}
    >
      {braid.crossings.map((each) => (
        <line
          key={each.index}
          x1={crossingX(each.index)}
          x2={crossingX(each.index)}
          y1={each.strand === group.strand ? TOP : GROUP_HEIGHT - 10}
          y2={GROUP_HEIGHT}
          stroke={each.index === selected ? "var(--madder)" : "var(--rule)"}
          strokeWidth={each.index === selected ? 1.5 : 0.75}
        />
      ))}
      <polygon
        points={[...upper, ...lower].join(" ")}
        fill="var(--weft)"
        stroke="var(--faded)"
        strokeWidth={0.75}
      />
      {places.map((each, index) => {
        const before = places[index - 1]?.rows;
        const same = index > 0 && before === each.rows && each.rows !== undefined && !each.guessed;
        const grown = !each.guessed && before !== undefined && each.rows !== undefined && each.rows > before;
        return (
          <text
            key={index}
            x={index === 0 ? 3 : each.x < NARROW ? each.x + 5 : each.x}
            y={12}
            textAnchor={index === 0 || each.x < NARROW ? "start" : "middle"}
            fontStyle={each.guessed ? "italic" : undefined}
            fill={
              each.guessed ? "var(--faded)" : grown ? "var(--madder)" : same ? "var(--faded)" : "var(--ink)"
            }
            fontSize={12}
            fontFamily="var(--font-mono)"
            opacity={same ? 0.65 : 1}
          >
            {each.rows === undefined
              ? "…"
              : same
                ? "="
                : each.guessed
                  ? `≈ ${formatNumber(each.rows)}`
                  : `${grown ? "▲ " : ""}${formatNumber(each.rows)}`}
          </text>
        );
      })}
    </svg>
  );
});
