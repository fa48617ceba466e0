import { formatNumber } from "@/core/format/numbers";
import { Plot } from "../charts/plot";
import type { AxisSpec } from "../charts/scale";
import { pointsOf, type Series } from "../charts/series";

type Points = readonly (readonly [number, number])[];

interface Props {
  readonly title?: string;
  readonly label: string;
  /** The figure that sums the curve up. */
  readonly figure: number | null | undefined;
  readonly points: Points;
  /** The curve of training rows, for comparison. */
  readonly training?: Points | undefined;
  readonly marker?: readonly [number, number];
}

export const FALSE_POSITIVE_RATE: AxisSpec = { title: "false positive rate", domain: [0, 1] };
export const TRUE_POSITIVE_RATE: AxisSpec = { title: "true positive rate", domain: [0, 1] };
export const RECALL: AxisSpec = { title: "recall", domain: [0, 1] };
export const PRECISION: AxisSpec = { title: "precision", domain: [0, 1] };

const WIDTH = 350;

const seriesOf = ({ points, training }: Props, reference: Series): Series[] => [
  { name: "evaluated rows", look: "first", points: pointsOf(points) },
  ...(training
    ? [{ name: "training rows", look: "training", points: pointsOf(training) } satisfies Series]
    : []),
  reference,
];

const line = (name: string, from: number, to: number): Series => ({
  name,
  look: "reference",
  points: pointsOf([
    [0, from],
    [1, to],
  ]),
  silent: true,
});

/** The ROC curve of evaluated rows. */
export function RocFigure(props: Props) {
  return (
    <Plot
      title={props.title ?? "ROC curve"}
      label={props.label}
      note={`AUC ${formatNumber(props.figure)}`}
      x={FALSE_POSITIVE_RATE}
      y={TRUE_POSITIVE_RATE}
      series={seriesOf(props, line("random order", 0, 1))}
      marker={props.marker}
      width={WIDTH}
    />
  );
}

/** The precision-recall curve of evaluated rows. @param base the share of positive rows */
export function PrecisionFigure({ base, ...props }: Props & { readonly base: number }) {
  return (
    <Plot
      title={props.title ?? "Precision-recall"}
      label={props.label}
      note={`average precision ${formatNumber(props.figure)}`}
      x={RECALL}
      y={PRECISION}
      series={seriesOf(props, line("base rate", base, base))}
      marker={props.marker}
      width={WIDTH}
    />
  );
}
