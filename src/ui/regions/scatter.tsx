import { max, min } from "d3-array";
import { scaleLinear, type ScaleLinear } from "d3-scale";
import { memo } from "react";
import { formatNumber } from "@/core/format/numbers";
import type { Points } from "@/runs/draft/columns";
import type { Region } from "./region";

export const WIDTH = 560;
export const HEIGHT = 320;
const EDGE = { left: 52, right: 8, top: 8, bottom: 26 };
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

export interface Scales {
  readonly x: ScaleLinear<number, number>;
  readonly y: ScaleLinear<number, number>;
}

/** Scales in which all points and all regions have room. */
export function scalesOf(found: Points | undefined, regions: readonly Region[]): Scales {
  const points = found?.points ?? [];
  const corners = regions.flatMap((region) => region.points);
  const domain = (at: 0 | 1): [number, number] => {
    const all = [...points.map((point) => point[at]), ...corners.map((corner) => corner[at])];
    const low = min(all) ?? 0;
    const high = max(all) ?? 1;
    return low === high ? [low - 1, high + 1] : [low, high];
  };
  return {
    x: scaleLinear(domain(0), [EDGE.left, WIDTH - EDGE.right]).nice(),
    y: scaleLinear(domain(1), [HEIGHT - EDGE.bottom, EDGE.top]).nice(),
  };
}

/** How far a scale reaches, in units of its column. */
export const spanOf = (scale: Scales["x"]): number => {
  const [low = 0, high = 1] = scale.domain();
  return Math.abs(high - low);
};

/** Groups of points that get a sign of their own. */
const groupsOf = ({ points }: Points): readonly (string | null)[] =>
  [...new Set(points.map(([, , group]) => group))].sort().slice(0, MOST_COLOURS);

/** The sign of a group; groups beyond the few that are told apart share the last, quiet one. */
const signOf = (groups: readonly (string | null)[], group: string | null): number => {
  const at = groups.indexOf(group);
  return at < 0 ? MOST_COLOURS : at;
};

/** Points and the numbers at the edges; drawn once, however regions change within the same scales. */
export const ScatterPoints = memo(function ScatterPoints({
  found,
  scales,
}: {
  readonly found: Points | undefined;
  readonly scales: Scales;
}) {
  const groups = found ? groupsOf(found) : [];
  return (
    <>
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
      {(found?.points ?? []).map(([x, y, group], index) => (
        <text
          key={index}
          x={scales.x(x)}
          y={scales.y(y) + 2}
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
