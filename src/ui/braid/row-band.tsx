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
  const own = braid.crossings.filter((crossing) => crossing.strand === group.strand);
  const rowsAfter = (after: number): number | undefined => counts.get(countKey(group.strand, after))?.rows;
  const guessed = (after: number): boolean => counts.get(countKey(group.strand, after))?.estimated === true;
  const places: Place[] = [
    { x: 0, rows: rowsAfter(0), guessed: guessed(0) },
    ...own.map((crossing) => ({
      x: crossingX(crossing.index),
      rows: rowsAfter(crossing.position + 1),
      guessed: guessed(crossing.position + 1),
    })),
  ];
  const end = group.main
    ? crossingX(braid.crossings.length - 1) + CROSSING_WIDTH
    : (places.at(-1)?.x ?? 0) + CROSSING_WIDTH * 0.8;
  const most = Math.max(1, ...places.map((place) => place.rows ?? 0));
  const thickness = (rows: number | undefined): number =>
    rows === undefined ? 2 : Math.max(rows === 0 ? 0.5 : 1.5, (rows / most) * MOST);
  const y = (rows: number | undefined, side: -1 | 1): number => TOP + MOST / 2 + (side * thickness(rows)) / 2;
  const edges = places.map((place, index) => ({
    from: place.x,
    to: places[index + 1]?.x ?? end,
    rows: place.rows,
  }));
  const upper = edges.flatMap((edge) => [
    `${edge.from},${y(edge.rows, -1)}`,
    `${Math.max(edge.from, edge.to - 8)},${y(edge.rows, -1)}`,
  ]);
  const lower = [...edges]
    .reverse()
    .flatMap((edge) => [
      `${Math.max(edge.from, edge.to - 8)},${y(edge.rows, 1)}`,
      `${edge.from},${y(edge.rows, 1)}`,
    ]);
  return (
    <svg
      width={width}
      height={GROUP_HEIGHT}
      className="block"
      role="img"
      aria-label={`Rows of ${group.strand}: ${places.map((place) => formatNumber(place.rows)).join(", then ")}`}
    >
      {braid.crossings.map((crossing) => (
        <line
          key={crossing.index}
          x1={crossingX(crossing.index)}
          x2={crossingX(crossing.index)}
          y1={crossing.strand === group.strand ? TOP : GROUP_HEIGHT - 10}
          y2={GROUP_HEIGHT}
          stroke={crossing.index === selected ? "var(--madder)" : "var(--rule)"}
          strokeWidth={crossing.index === selected ? 1.5 : 0.75}
        />
      ))}
      <polygon
        points={[...upper, ...lower].join(" ")}
        fill="var(--weft)"
        stroke="var(--faded)"
        strokeWidth={0.75}
      />
      {places.map((place, index) => (
        <CountText key={index} place={place} index={index} before={places[index - 1]?.rows} />
      ))}
    </svg>
  );
});

type CountKind = "unknown" | "same" | "estimated" | "grown" | "shrunk";

function countKind({ rows, guessed }: Place, before: number | undefined): CountKind {
  if (rows === undefined) return "unknown";
  if (guessed) return "estimated";
  if (rows === before) return "same";
  return before !== undefined && rows > before ? "grown" : "shrunk";
}

function countWords(kind: CountKind, rows: number | undefined): string {
  switch (kind) {
    case "unknown":
      return "…";
    case "same":
      return "=";
    case "estimated":
      return `≈ ${formatNumber(rows)}`;
    case "grown":
      return `▲ ${formatNumber(rows)}`;
    case "shrunk":
      return formatNumber(rows);
  }
}

const COUNT_COLOURS: Readonly<Record<CountKind, string>> = {
  unknown: "var(--ink)",
  same: "var(--faded)",
  estimated: "var(--faded)",
  grown: "var(--madder)",
  shrunk: "var(--ink)",
};

/** The number of rows after a step; a sign where it is as before, estimated, or larger. */
function CountText({
  place,
  index,
  before,
}: {
  readonly place: Place;
  readonly index: number;
  readonly before: number | undefined;
}) {
  const kind = countKind(place, before);
  const isFirst = index === 0;
  const isNarrow = !isFirst && place.x < NARROW;
  return (
    <text
      x={isFirst ? 3 : place.x + (isNarrow ? 5 : 0)}
      y={12}
      textAnchor={isFirst || isNarrow ? "start" : "middle"}
      fontStyle={kind === "estimated" ? "italic" : undefined}
      fill={COUNT_COLOURS[kind]}
      fontSize={12}
      fontFamily="var(--font-mono)"
      opacity={kind === "same" ? 0.65 : 1}
    >
      {countWords(kind, place.rows)}
    </text>
  );
}
