import { LineChart } from "./line-chart";

export interface PassPoint {
  readonly pass: number;
  readonly scope: "all" | "sample";
  readonly loss: number;
  readonly gradientNorm: number;
  readonly step: number;
}

/** Loss and gradient per pass, as training goes on. Passes over the sample and over all rows are told apart. */
export function TrainingChart({ passes }: { readonly passes: readonly PassPoint[] }) {
  const sample = passes.filter((each) => each.scope === "sample");
  const all = passes.filter((each) => each.scope === "all");
  const lines = (pick: (pass: PassPoint) => number) => [
    { name: "on the sample", points: sample.map((each): [number, number] => [each.pass, pick(each)]), stroke: "var(--weld)", dash: "4 3", dots: true },
    { name: "on all rows", points: all.map((each): [number, number] => [each.pass, pick(each)]), stroke: "var(--woad)", dots: true },
  ].filter((each) => each.points.length > 0);
  return (
    <div className="flex flex-wrap gap-6">
      <figure><figcaption className="font-medium">Mean log loss</figcaption><LineChart label="Mean log loss per pass" xName="pass" yName="loss" series={lines((each) => each.loss)} height={220} /></figure>
      <figure><figcaption className="font-medium">Largest gradient</figcaption><LineChart label="Largest gradient per pass" xName="pass" yName="gradient (log scale)" logY series={lines((each) => Math.max(each.gradientNorm, 1e-17))} height={220} /></figure>
      <p className="w-full text-sm text-faded"><svg width="26" height="8" className="inline" aria-hidden><line x1="0" x2="26" y1="4" y2="4" stroke="var(--weld)" strokeDasharray="4 3" strokeWidth="2" /></svg> passes over the fixed sample &nbsp; <svg width="26" height="8" className="inline" aria-hidden><line x1="0" x2="26" y1="4" y2="4" stroke="var(--woad)" strokeWidth="2" /></svg> passes over all rows</p>
    </div>
  );
}
