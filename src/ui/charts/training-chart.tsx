import { Plot } from "./plot";
import { pointsOf, type Look, type Series } from "./series";

export interface PassPoint {
  readonly pass: number;
  readonly scope: "all" | "sample" | "tree" | "epoch";
  readonly loss: number;
  readonly validation?: number | null | undefined;
  readonly gradientNorm?: number | null | undefined;
}

const UNITS = { all: "pass", sample: "pass", tree: "tree", epoch: "epoch" } as const;
/** With more passes than these, dots would hide the line. */
const MOST_DOTS = 60;
/** Below it a gradient is rounding error. */
const SMALLEST_GRADIENT = 1e-17;

/** Values of the passes of one kind, as a series. */
function seriesOf(
  name: string,
  look: Look,
  passes: readonly PassPoint[],
  pick: (pass: PassPoint) => number | null | undefined,
): Series[] {
  const pairs = passes.flatMap((pass): [number, number][] => {
    const value = pick(pass);
    return typeof value === "number" ? [[pass.pass, value]] : [];
  });
  const mark = passes.length > MOST_DOTS ? "line" : "dotted line";
  return pairs.length === 0 ? [] : [{ name, look, points: pointsOf(pairs), mark }];
}

/** Loss during training: on training rows, on validation rows, and the point that was chosen; for linear models the gradient too. */
export function TrainingChart({
  passes,
  chosen,
  width = 400,
}: {
  readonly passes: readonly PassPoint[];
  readonly chosen?: number | undefined;
  readonly width?: number;
}) {
  const sample = passes.filter(({ scope }) => scope === "sample");
  const all = passes.filter(({ scope }) => scope !== "sample");
  const unit = UNITS[passes.at(-1)?.scope ?? "all"];
  const rows = unit === "pass" ? "all training rows" : "training rows";
  const both = (pick: (pass: PassPoint) => number | null | undefined): Series[] => [
    ...seriesOf("sample of rows", "second", sample, pick),
    ...seriesOf(rows, "first", all, pick),
  ];
  const validation = seriesOf("validation rows", "fourth", passes, ({ validation: loss }) => loss);
  const mark = validation[0]?.points.find(({ x }) => x === chosen);
  const gradient = both(({ gradientNorm }) =>
    typeof gradientNorm === "number" ? Math.max(gradientNorm, SMALLEST_GRADIENT) : undefined,
  );
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-4">
      <Plot
        title="Mean loss"
        note={mark && `chosen: ${unit} ${mark.x}`}
        x={{ title: unit, whole: true }}
        y={{ title: "loss" }}
        series={[...both(({ loss }) => loss), ...validation]}
        marker={mark && [mark.x, mark.y]}
        width={width}
        height={220}
      />
      {gradient.length > 0 && (
        <Plot
          title="Largest gradient"
          x={{ title: "pass", whole: true }}
          y={{ title: "gradient, log scale", kind: "log" }}
          series={gradient}
          width={width}
          height={220}
        />
      )}
    </div>
  );
}
