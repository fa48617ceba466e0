import { formatNumber } from "@/core/format/numbers";
import { confusions, ratesOf, type Bucket } from "@/core/evaluate/threshold";
import { THRESHOLD_STEPS } from "@/core/evaluate/scores-sql";
import { LineChart } from "../charts/line-chart";
import { Key } from "../charts/training-chart";

/** Buckets put together, with their counts: few enough to draw. */
function coarse(
  buckets: readonly Bucket[],
  parts: number,
): readonly { readonly middle: number; readonly positives: number; readonly negatives: number }[] {
  const found = Array.from({ length: parts }, (_, index) => ({
    middle: (index + 0.5) / parts,
    positives: 0,
    negatives: 0,
  }));
  for (const each of buckets) {
    const entry =
      found[Math.min(parts - 1, Math.floor((Math.max(0, each.bucket) / THRESHOLD_STEPS) * parts))]!;
    entry.positives += each.positives;
    entry.negatives += each.negatives;
  }
  return found;
}

/** Lift, calibration and the distribution of scores of a yes/no model on its holdout. */
export function ScoreCurves({ buckets }: { readonly buckets: readonly Bucket[] }) {
  const all = [...confusions(buckets, THRESHOLD_STEPS)].reverse();
  const rows = (each: (typeof all)[number]): number =>
    (each.tp + each.fp) / Math.max(1, each.tp + each.fp + each.fn + each.tn);
  const gain: [number, number][] = [
    [0, 0],
    ...all.map((each): [number, number] => [rows(each), ratesOf(each).recall]),
  ];
  const bins = coarse(buckets, 20).filter((each) => each.positives + each.negatives > 0);
  const calibration = bins.map((each): [number, number] => [
    each.middle,
    each.positives / (each.positives + each.negatives),
  ]);
  const shape = coarse(buckets, 40);
  const [yes, no] = [
    shape.reduce((sum, each) => sum + each.positives, 0),
    shape.reduce((sum, each) => sum + each.negatives, 0),
  ];
  return (
    <div className="flex flex-wrap gap-x-8 gap-y-4">
      <figure>
        <figcaption className="font-medium">What the highest scores find</figcaption>
        <LineChart
          label="Cumulative gain"
          xName="share of rows, highest score first"
          yName="share of positives"
          xDomain={[0, 1]}
          yDomain={[0, 1]}
          width={340}
          height={230}
          series={[
            {
              name: "at random",
              points: [
                [0, 0],
                [1, 1],
              ],
              stroke: "var(--rule)",
              dash: "4 4",
            },
            { name: "model", points: gain, stroke: "var(--moss)" },
          ]}
        />
        <p className="text-sm text-faded">
          The first tenth holds {lift(gain, 0.1)} times as many positives as chance.
        </p>
      </figure>
      <figure>
        <figcaption className="font-medium">Are probabilities what they say?</figcaption>
        <LineChart
          label="Calibration"
          xName="probability said"
          yName="share that was positive"
          xDomain={[0, 1]}
          yDomain={[0, 1]}
          width={340}
          height={230}
          series={[
            {
              name: "perfect",
              points: [
                [0, 0],
                [1, 1],
              ],
              stroke: "var(--rule)",
              dash: "4 4",
            },
            { name: "model", points: calibration, stroke: "var(--woad)", dots: true },
          ]}
        />
      </figure>
      <figure>
        <figcaption className="font-medium">Scores of each answer</figcaption>
        <LineChart
          label="Distribution of scores"
          xName="probability"
          yName="share of the answer's rows"
          xDomain={[0, 1]}
          width={340}
          height={230}
          series={[
            {
              name: "negative",
              points: shape.map((each): [number, number] => [each.middle, no > 0 ? each.negatives / no : 0]),
              stroke: "var(--faded)",
              dash: "5 3",
            },
            {
              name: "positive",
              points: shape.map((each): [number, number] => [
                each.middle,
                yes > 0 ? each.positives / yes : 0,
              ]),
              stroke: "var(--madder)",
            },
          ]}
        />
        <p className="flex gap-4 text-sm text-faded">
          <Key stroke="var(--madder)">positive</Key>
          <Key stroke="var(--faded)" dash="5 3">
            negative
          </Key>
        </p>
      </figure>
    </div>
  );
}

function lift(gain: readonly (readonly [number, number])[], share: number): string {
  const at = gain.findIndex(([rows]) => rows >= share);
  const [rows, found] = gain[at < 0 ? gain.length - 1 : at]!;
  return rows > 0 ? formatNumber(found / rows) : "–";
}
