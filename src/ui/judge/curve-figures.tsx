import { formatNumber } from "@/core/format/numbers";
import { LineChart } from "../charts/line-chart";
import { Key } from "../charts/training-chart";

type Points = readonly [number, number][];

interface Props {
  readonly label: string;
  /** What the axes are called. */
  readonly xName: string;
  readonly yName: string;
  /** The figure that sums the curve up. */
  readonly figure: number | null | undefined;
  readonly points: Points;
  /** The curve of training rows, to be held against that of the rows that judge. */
  readonly training?: Points | undefined;
  readonly marker?: readonly [number, number];
}

/** The ROC curve of rows that judge. */
export function RocFigure(props: Props) {
  const chance: [number, number][] = [
    [0, 0],
    [1, 1],
  ];
  return (
    <CurveFigure
      {...props}
      title="Receiver operating characteristic"
      figureName="AUC"
      stroke="var(--woad)"
      reference={{ name: "chance", points: chance }}
    />
  );
}

/** The precision-recall curve of rows that judge. @param base the share of positive rows */
export function PrecisionFigure({
  base,
  ...props
}: Omit<Props, "xName" | "yName"> & { readonly base: number }) {
  const level: [number, number][] = [
    [0, base],
    [1, base],
  ];
  return (
    <CurveFigure
      {...props}
      xName="recall"
      yName="precision"
      title="Precision and recall"
      figureName="average precision"
      stroke="var(--plum)"
      reference={{ name: "base rate", points: level }}
    />
  );
}

function CurveFigure({
  label,
  xName,
  yName,
  title,
  figure,
  figureName,
  stroke,
  points,
  training,
  reference,
  marker,
}: Props & {
  readonly title: string;
  readonly figureName: string;
  readonly stroke: string;
  readonly reference: { readonly name: string; readonly points: Points };
}) {
  return (
    <figure>
      <figcaption className="mb-1 font-medium">
        {title}{" "}
        <span className="figure ml-1 font-normal text-faded">
          {figureName} {formatNumber(figure)}
        </span>
      </figcaption>
      <LineChart
        label={label}
        xName={xName}
        yName={yName}
        xDomain={[0, 1]}
        yDomain={[0, 1]}
        width={340}
        series={[
          { ...reference, stroke: "var(--rule)", dash: "4 4" },
          ...(training
            ? [{ name: "training rows", points: training, stroke: "var(--faded)", dash: "2 3" }]
            : []),
          { name: "model", points, stroke },
        ]}
        {...(marker ? { marker } : {})}
      />
      {training && (
        <p className="flex gap-4 text-sm text-faded">
          <Key stroke={stroke}>evaluated rows</Key>
          <Key stroke="var(--faded)" dash="2 3">
            training rows
          </Key>
        </p>
      )}
    </figure>
  );
}
