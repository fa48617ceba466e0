"use client";
import { Skeleton } from "../basic/skeleton";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { ResidualBin } from "@/core/questions/judged/residuals";
import { useQueryState } from "nuqs";
import { useRead } from "../queries/use-read";
import { ActualPlot } from "./actual-plot";
import { ColumnChoice } from "./column-choice";
import { errorAdvice, type ErrorFigures } from "./error-advice";
import { PartChoice, usePart } from "./part-choice";
import { ResidualPlots, type PlacedBin } from "./residual-plots";
import { ResidualTable } from "./residual-table";

interface Props {
  readonly model: number;
  /** Predicted and actual value of some rows of each part; there are none of the blind holdout. */
  readonly pairs: Readonly<Partial<Record<JudgedPart, readonly (readonly [number, number])[]>>>;
  /** The parts of rows that can be looked at. */
  readonly parts: readonly JudgedPart[];
  readonly insideFolds: boolean;
  readonly columns: readonly string[];
  readonly skewness: number;
  readonly figures: ErrorFigures;
}

/** Predicted against actual values, and residuals by the prediction or any column. */
export function ResidualsView({ model, pairs, parts, insideFolds, columns, skewness, figures }: Props) {
  const [part, setPart] = usePart(parts);
  const [column, setColumn] = useQueryState("along", { defaultValue: "prediction" });
  const { value, failure, asking } = useRead<readonly ResidualBin[]>(residualsOf(model, part, column));
  const other = otherPart(part, parts);
  const { value: compared } = useRead<readonly ResidualBin[]>(other && residualsOf(model, other, column));
  const placed = placedBins(value);
  return (
    <section aria-label="Errors">
      <div className="mb-1 flex items-center gap-4">
        <h2>Errors</h2>
        <PartChoice parts={parts} part={part} insideFolds={insideFolds} onChange={setPart} />
      </div>
      <p className="mb-2 max-w-3xl text-caption" data-testid="advice">
        {errorAdvice(skewness, figures)}
      </p>
      <div className="flex flex-wrap gap-x-8 gap-y-4">
        {pairs[part] && <ActualPlot pairs={pairs[part]} />}
        <div className="min-w-0 flex-1">
          <div className="flex items-center gap-3">
            <ColumnChoice
              label="residuals by"
              value={column}
              columns={["prediction", ...columns]}
              onChange={(name) => void setColumn(name)}
            />
            {asking && placed.length > 0 && (
              <span className="text-caption text-faded" role="status">
                counting …
              </span>
            )}
          </div>
          {failure && (
            <p role="alert" className="text-madder">
              {failure}
            </p>
          )}
          {asking && placed.length === 0 && (
            <Skeleton label="counting residuals …" columns={1} className="" />
          )}
          {placed.length > 1 && (
            <ResidualPlots
              column={column}
              part={part}
              bins={placed}
              other={other}
              otherBins={placedBins(compared)}
            />
          )}
          {value && placed.length <= 1 && (
            <ResidualTable column={column} bins={value} other={other} otherBins={compared ?? []} />
          )}
        </div>
      </div>
    </section>
  );
}

const residualsOf = (model: number, part: JudgedPart, column: string): string =>
  `/api/models/${model}/residuals?part=${part}&column=${encodeURIComponent(column)}`;

/** The part whose errors are drawn beside those of another: training rows, or for these the holdout. */
function otherPart(part: JudgedPart, parts: readonly JudgedPart[]): JudgedPart | undefined {
  const wanted = part === "training" ? "holdout" : "training";
  return parts.includes(wanted) ? wanted : undefined;
}

const placedBins = (bins: readonly ResidualBin[] | undefined): readonly PlacedBin[] =>
  (bins ?? []).filter((bin): bin is PlacedBin => bin.place !== null);
