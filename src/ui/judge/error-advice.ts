import { formatNumber } from "@/core/format/numbers";

export interface ErrorFigures {
  readonly rmse?: number | null;
  readonly mae?: number | null;
  readonly median_error?: number | null;
}

/**
 * Which error suits the target.
 * @param skewness of the target
 * @param figures errors of the version
 */
export function errorAdvice(skewness: number, { rmse, mae, median_error: median }: ErrorFigures): string {
  const size = `Skewness: ${formatNumber(skewness)}`;
  if (Math.abs(skewness) < 1)
    return `The target is about symmetric (${size.toLowerCase()}): RMSE and mean absolute error agree, and most algorithms minimise RMSE.`;
  const ratio =
    rmse && mae
      ? ` Here the RMSE (${formatNumber(rmse)}) is ${formatNumber(rmse / mae)} times the mean absolute error (${formatNumber(mae)}), and half of the errors are below ${formatNumber(median)}.`
      : "";
  return `The target has a long tail of ${skewness > 0 ? "large" : "small"} values (${size.toLowerCase()}). RMSE depends mostly on those few rows. If each unit of error costs the same, use mean absolute error and try the absolute loss; if a typical row matters, use median absolute error.${ratio}`;
}
