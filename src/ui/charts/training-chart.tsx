import { LineChart, type ChartSeries } from "./line-chart";

export interface PassPoint {
  readonly pass: number;
  readonly scope: "all" | "sample" | "tree" | "epoch";
  readonly loss: number;
  readonly validation?: number | null | undefined;
  readonly gradientNorm?: number | null | undefined;
}

const UNITS = { all: "pass", sample: "pass", tree: "tree", epoch: "epoch" } as const;

/** Loss as training goes on: on the rows learned from, on rows kept apart, and the point that was chosen; for linear learners the gradient too. */
export function TrainingChart({
  passes,
  chosen,
}: {
  readonly passes: readonly PassPoint[];
  readonly chosen?: number | undefined;
}) {
  const sample = passes.filter((each) => each.scope === "sample");
  const all = passes.filter((each) => each.scope !== "sample");
  const unit = UNITS[passes.at(-1)?.scope ?? "all"];
  const many = passes.length > 60;
  const named = (pick: (pass: PassPoint) => number | null | undefined): ChartSeries[] => {
    const points = (from: readonly PassPoint[]): [number, number][] =>
      from.flatMap((each): [number, number][] => {
        const value = pick(each);
        return typeof value === "number" ? [[each.pass, value]] : [];
      });
    return [
      { name: "on the sample", points: points(sample), stroke: "var(--weld)", dash: "4 3", dots: !many },
      { name: "training rows", points: points(all), stroke: "var(--woad)", dots: !many },
    ].filter((each) => each.points.length > 0);
  };
  const held: [number, number][] = passes.flatMap((each): [number, number][] =>
    typeof each.validation === "number" ? [[each.pass, each.validation]] : [],
  );
  const apart: ChartSeries[] =
    held.length > 0 ? [{ name: "validation rows", points: held, stroke: "var(--madder)", dash: "7 3" }] : [];
  const mark = chosen === undefined ? undefined : held.find(([pass]) => pass === chosen);
  const gradient = named((pass) =>
    typeof pass.gradientNorm === "number" ? Math.max(pass.gradientNorm, 1e-17) : undefined,
  );
  return (
    <div className="flex flex-wrap gap-6">
      <figure>
        <figcaption className="font-medium">Mean loss</figcaption>
        <LineChart
          label={`Mean loss per ${unit}`}
          xName={unit}
          counted
          yName="loss"
          series={[...named((pass) => pass.loss), ...apart]}
          height={220}
          marker={mark}
        />
      </figure>
      {gradient.length > 0 && (
        <figure>
          <figcaption className="font-medium">Largest gradient</figcaption>
          <LineChart
            label="Largest gradient per pass"
            xName="pass"
            counted
            yName="gradient (log scale)"
            logY
            series={gradient}
            height={220}
          />
        </figure>
      )}
      <p className="flex w-full flex-wrap gap-5 text-sm text-faded">
        {sample.length > 0 && (
          <Key stroke="var(--weld)" dash="4 3">
            passes over the fixed sample
          </Key>
        )}
        {all.length > 0 && (
          <Key stroke="var(--woad)">{unit === "pass" ? "passes over all rows" : "training rows"}</Key>
        )}
        {held.length > 0 && (
          <Key stroke="var(--madder)" dash="7 3">
            validation rows{mark ? `; chosen: ${unit} ${mark[0]}` : ""}
          </Key>
        )}
      </p>
    </div>
  );
}

export function Key({
  stroke,
  dash,
  children,
}: {
  readonly stroke: string;
  readonly dash?: string;
  readonly children: React.ReactNode;
}) {
  return (
    <span className="inline-flex items-center gap-2">
      <svg width="26" height="8" aria-hidden>
        <line x1="0" x2="26" y1="4" y2="4" stroke={stroke} strokeDasharray={dash} strokeWidth="2" />
      </svg>
      {children}
    </span>
  );
}
