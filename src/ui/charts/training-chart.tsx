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
      <figure><figcaption className="font-medium">Mean log loss</figcaption><LineChart label="Mean log loss per pass" xName="pass" counted yName="loss" series={lines((each) => each.loss)} height={220} /></figure>
      <figure><figcaption className="font-medium">Largest gradient</figcaption><LineChart label="Largest gradient per pass" xName="pass" counted yName="gradient (log scale)" logY series={lines((each) => Math.max(each.gradientNorm, 1e-17))} height={220} /></figure>
      <p className="flex w-full gap-5 text-sm text-faded">
        {sample.length > 0 && <Key stroke="var(--weld)" dash="4 3">passes over the fixed sample</Key>}
        {all.length > 0 && <Key stroke="var(--woad)">passes over all rows</Key>}
      </p>
    </div>
  );
}

function Key({ stroke, dash, children }: { readonly stroke: string; readonly dash?: string; readonly children: string }) {
  return <span className="inline-flex items-center gap-2"><svg width="26" height="8" aria-hidden><line x1="0" x2="26" y1="4" y2="4" stroke={stroke} strokeDasharray={dash} strokeWidth="2" /></svg>{children}</span>;
}
