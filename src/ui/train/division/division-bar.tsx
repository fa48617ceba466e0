"use client";
import { useRef } from "react";
import { ChartTools } from "../../charts/chart-tools";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../../basic/number-cell";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import { formatNumber, formatPart } from "@/core/format/numbers";
import type { DivisionCounts, ValueRows } from "@/runs/draft/division";
import { Sheet } from "../../basic/sheet";

export const PART_TITLES: Readonly<Record<JudgedPart, string>> = {
  training: "Training",
  holdout: "Holdout",
  blind: "Blind",
};
const PARTS: readonly JudgedPart[] = ["training", "holdout", "blind"];
/** Classes that are listed for a part. */
const FEW = 6;

/** Paint of a part: plain, hatched, dotted, so that they are told apart without colour. */
const paintOf = (part: JudgedPart): string => `url(#division-${part})`;

function Patterns() {
  return (
    <defs>
      <pattern id="division-training" width="8" height="8" patternUnits="userSpaceOnUse">
        <rect width="8" height="8" fill="var(--woad)" opacity="0.28" />
      </pattern>
      <pattern
        id="division-holdout"
        width="6"
        height="6"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="6" height="6" fill="var(--paper)" />
        <rect width="2.5" height="6" fill="var(--madder)" />
      </pattern>
      <pattern id="division-blind" width="6" height="6" patternUnits="userSpaceOnUse">
        <rect width="6" height="6" fill="var(--paper)" />
        <circle cx="3" cy="3" r="1.4" fill="var(--ink)" />
      </pattern>
    </defs>
  );
}

/** How rows are divided: a bar, and what each part has of rows, groups and classes. */
export function DivisionBar({
  counts,
  positive,
}: {
  readonly counts: DivisionCounts;
  /** What rows with a positive answer are called, for yes and no. */
  readonly positive: string | undefined;
}) {
  const sizes = new Map(counts.parts.map((found) => [found.part, found]));
  const drawing = useRef<SVGSVGElement>(null);
  const shown = PARTS.flatMap((part) => sizes.get(part) ?? []);
  const total = shown.reduce((sum, { rows }) => sum + rows, 0);
  const places = shown.map(({ rows }, index) => ({
    from: shown.slice(0, index).reduce((sum, before) => sum + before.rows, 0),
    rows,
  }));
  const share = figureColumn(
    shown.map(({ rows }) => rows),
    (rows) => formatPart(rows, total),
  );
  const grouped = shown.some(({ groups }) => groups !== undefined);
  return (
    <div data-testid="division">
      <div className="flex items-start gap-2">
        <svg
          ref={drawing}
          viewBox="0 0 400 26"
          className="h-6 w-full"
          preserveAspectRatio="none"
          role="img"
          aria-label={shown
            .map(({ part, rows }) => `${PART_TITLES[part]} ${formatNumber(rows)} rows`)
            .join(", ")}
        >
          <Patterns />
          {shown.map(({ part }, index) => (
            <rect
              key={part}
              x={(400 * places[index]!.from) / Math.max(1, total)}
              width={(400 * places[index]!.rows) / Math.max(1, total)}
              y="0.5"
              height="25"
              fill={paintOf(part)}
              stroke="var(--ink)"
              strokeWidth="0.75"
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </svg>
        <ChartTools title="Data split" drawing={drawing} />
      </div>
      <Sheet className="mt-2 w-full">
        <thead>
          <tr>
            <th>Part</th>
            <th className="number">Rows</th>
            <th className="number">Share</th>
            {grouped && <th className="number">Groups</th>}
            {counts.classes && <th>{positive === undefined ? "Classes" : positive}</th>}
          </tr>
        </thead>
        <tbody>
          {shown.map(({ part, rows, groups }) => (
            <tr key={part}>
              <td>
                <svg width="14" height="12" aria-hidden className="mr-2 inline-block align-[-1px]">
                  <rect x="0.5" y="0.5" width="13" height="11" fill={paintOf(part)} stroke="var(--ink)" />
                </svg>
                {PART_TITLES[part]}
              </td>
              <td className="number">{formatNumber(rows)}</td>
              <NumberCell figure={share(rows)} />
              {grouped && <td className="number">{formatNumber(groups ?? 0)}</td>}
              {counts.classes && (
                <td>
                  <Classes
                    found={counts.classes.filter((counted) => counted.part === part)}
                    rows={rows}
                    binary={positive !== undefined}
                  />
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </Sheet>
    </div>
  );
}

/** The classes of a part; for yes and no the positive rows alone. */
function Classes({
  found,
  rows,
  binary,
}: {
  readonly found: readonly ValueRows[];
  readonly rows: number;
  readonly binary: boolean;
}) {
  if (binary) {
    const positives = found.find(({ value }) => value === "true")?.rows ?? 0;
    return (
      <span className="figure">
        {formatNumber(positives)} ({formatPart(positives, rows)})
      </span>
    );
  }
  const known = found.filter(({ value }) => value !== null);
  const more = known.length - FEW;
  return (
    <span>
      {known
        .slice(0, FEW)
        .map(({ value, rows: count }) => `${value} ${formatNumber(count)}`)
        .join(", ")}
      {more > 0 ? `, and ${formatNumber(more)} more` : ""}
    </span>
  );
}
