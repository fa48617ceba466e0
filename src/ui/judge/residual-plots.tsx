import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { ResidualBin } from "@/core/questions/judged/residuals";
import { Plot } from "../charts/plot";
import { pointsOf, type Look, type Series } from "../charts/series";
import { PART_WORDS } from "./part-choice";

/** A bin of a column of numbers or times, which has a place on an axis. */
export type PlacedBin = ResidualBin & { readonly place: number };

const SIZE = { width: 400, height: 250 } as const;

const along = (
  name: string,
  look: Look,
  bins: readonly PlacedBin[],
  value: (bin: PlacedBin) => number,
): Series => ({ name, look, points: pointsOf(bins.map((bin) => [bin.place, value(bin)])) });

interface Props {
  readonly column: string;
  readonly part: JudgedPart;
  readonly bins: readonly PlacedBin[];
  /** Another part of the rows, for comparison. */
  readonly other: JudgedPart | undefined;
  readonly otherBins: readonly PlacedBin[];
}

/** Residuals along a column, and both actual and predicted means. */
export function ResidualPlots({ column, part, bins, other, otherBins }: Props) {
  return (
    <div className="mt-1 flex flex-wrap gap-x-8 gap-y-4">
      <Plot
        {...SIZE}
        title={`Residuals by ${column}`}
        x={{ title: column }}
        y={{ title: "actual minus predicted" }}
        series={[
          along(`median, ${PART_WORDS[part]}`, "first", bins, ({ quartiles }) => quartiles[1]),
          ...(other && otherBins.length > 1
            ? [along(`median, ${PART_WORDS[other]}`, "second", otherBins, ({ quartiles }) => quartiles[1])]
            : []),
        ]}
        bands={[
          {
            name: "middle half of rows",
            look: "bound",
            points: bins.map(({ place, quartiles }) => ({ x: place, low: quartiles[0], high: quartiles[2] })),
          },
        ]}
      />
      <Plot
        {...SIZE}
        title={`Actual and predicted by ${column}`}
        x={{ title: column }}
        y={{ title: "mean" }}
        series={[
          along("actual", "third", bins, ({ actual }) => actual),
          along("predicted", "first", bins, ({ predicted }) => predicted),
        ]}
      />
    </div>
  );
}
