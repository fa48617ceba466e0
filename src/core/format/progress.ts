import { formatNumber } from "./numbers";

/** How far something has come, in words: "80 of 212 features looked at". */
export const describeProgress = (progress: {
  readonly what: string;
  readonly done: number;
  readonly of: number;
}): string => `${formatNumber(progress.done)} of ${formatNumber(progress.of)} ${progress.what}`;
