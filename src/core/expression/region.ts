import { binary, double, integer, sumOf, when, type Expression } from "./ast";

export type Point = readonly [x: number, y: number];

/** Edges of a closed polygon that are not level; a level edge is never crossed by a level ray. */
function edges(points: readonly Point[]): readonly (readonly [from: Point, to: Point])[] {
  return points
    .map((point, index): readonly [Point, Point] => [
      points[(index + points.length - 1) % points.length]!,
      point,
    ])
    .filter(([from, to]) => from[1] !== to[1]);
}

/**
 * Whether a point lies inside a polygon, by counting how often a ray to the right crosses its edges (even-odd rule;
 * Preparata and Shamos: Computational Geometry (1985), section 2.2). A point on an edge may fall on either side.
 */
export function isInside(points: readonly Point[], x: number, y: number): boolean {
  const crossings = edges(points).filter(
    ([from, to]) =>
      from[1] > y !== to[1] > y && x < ((to[0] - from[0]) / (to[1] - from[1])) * (y - from[1]) + from[0],
  );
  return crossings.length % 2 === 1;
}

/** The same as SQL, term by term. */
export function insideExpression(points: readonly Point[], x: Expression, y: Expression): Expression {
  const crossings = edges(points).map(([from, to]) => {
    const slope = double((to[0] - from[0]) / (to[1] - from[1]));
    const reached = binary(binary(slope, "*", binary(y, "-", double(from[1]))), "+", double(from[0]));
    const straddles = binary(binary(double(from[1]), ">", y), "<>", binary(double(to[1]), ">", y));
    return when(binary(straddles, "and", binary(x, "<", reached)), integer(1), integer(0));
  });
  return binary(binary(sumOf(crossings), "%", integer(2)), "=", integer(1));
}
