import { hidden } from "../names/hidden";
/** Columns of a training frame that Ravlen adds. They are apart from frame.ts, because learners name them too. */
export const TARGET_COLUMN = hidden("target");
/** The row's weight; only there when the file names one. */
export const WEIGHT_COLUMN = hidden("weight");
/** The time column as seconds since 1970; only there when the file names one. */
export const MOMENT_COLUMN = hidden("moment");
