import { memo } from "react";
import { formatNumber } from "@/core/format/numbers";
import type { Points } from "@/runs/draft/columns";
import { Axes } from "../charts/axes";
import { layOutPlot, type PlotLayout } from "../charts/layout";
import type { PlacedAxis } from "../charts/scale";
import type { Series } from "../charts/series";
import type { Region } from "./region";

export const WIDTH = 560;
export const HEIGHT = 320;
export const INKS = [
  "var(--woad)",
  "var(--madder)",
  "var(--moss)",
  "var(--plum)",
  "var(--weld)",
  "var(--faded)",
];
/** Signs for points, so that a colour is never alone. */
const SIGNS = ["●", "▲", "■", "◆", "✚", "○"];
const MOST_COLOURS = INKS.length - 1;

/** Axes on which all points and all regions have room. */
export function axesOf(
  names: { readonly x: string; readonly y: string },
  found: Points | undefined,
  regions: readonly Region[],
): PlotLayout {
  const points = [
    ...(found?.points ?? []).map(([x, y]) => ({ x, y })),
    ...regions.flatMap((region) => region.points.map(([x, y]) => ({ x, y }))),
  ];
  const series: Series[] = [{ name: "points", look: "first", points }];
  return layOutPlot(
    { x: { title: names.x, exact: false }, y: { title: names.y }, series, bands: [] },
    WIDTH,
    HEIGHT,
  );
}

/** The values at both ends of an axis. */
export const endsOf = ({ range, valueAt }: PlacedAxis): readonly [number, number] => [
  valueAt(range[0]),
  valueAt(range[1]),
];

/** Groups of points that get a sign of their own. */
const groupsOf = ({ points }: Points): readonly (string | null)[] =>
  [...new Set(points.map(([, , group]) => group))].sort().slice(0, MOST_COLOURS);

/** The sign of a group; groups beyond the few that are told apart share the last, quiet one. */
const signOf = (groups: readonly (string | null)[], group: string | null): number => {
  const at = groups.indexOf(group);
  return at < 0 ? MOST_COLOURS : at;
};

/** Points and both axes; drawn once, however regions change within the same axes. */
export const ScatterPoints = memo(function ScatterPoints({
  found,
  layout,
}: {
  readonly found: Points | undefined;
  readonly layout: PlotLayout;
}) {
  const groups = found ? groupsOf(found) : [];
  return (
    <>
      <Axes layout={layout} />
      {(found?.points ?? []).map(([x, y, group], index) => (
        <text
          key={index}
          x={layout.x.place(x)}
          y={layout.y.place(y) + 2}
          fontSize={5.5}
          textAnchor="middle"
          fill={INKS[signOf(groups, group)]}
          opacity={0.75}
          pointerEvents="none"
        >
          {SIGNS[signOf(groups, group)]}
        </text>
      ))}
    </>
  );
});

/** How many points are shown, and what their signs mean. */
export function pointWords({ points, total }: Points, colour: string | undefined): string {
  const shown =
    points.length < total
      ? `${formatNumber(points.length)} of ${formatNumber(total)} points, sampled by hash`
      : `${formatNumber(total)} points`;
  if (colour === undefined) return shown;
  const groups = groupsOf({ points, total });
  const signs = groups.map((group) => `${SIGNS[signOf(groups, group)] ?? ""} ${group ?? "missing"}`);
  const others = points.some(([, , group]) => !groups.includes(group))
    ? `  ${SIGNS[MOST_COLOURS] ?? ""} others`
    : "";
  return `${shown}; ${colour}: ${signs.join("  ")}${others}`;
}
