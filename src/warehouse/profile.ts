import { formatNumber } from "@/core/format/numbers";
import type { ColumnProfile, HistogramBar } from "@/core/evaluate/table-profile";
import { isMeasured, overviewQuestion, type ProfiledColumn } from "@/core/questions/profile/column";
import { barsQuestion, rangeQuestion, valueCountsQuestion } from "@/core/questions/profile/values";
import type { Relation } from "@/core/relation/relation";
import { isMoment } from "@/core/value-type";
import type { AskOptions, Warehouse } from "./port/warehouse";

const BARS = 24;
const TOP = 12;

/**
 * Profiles one column of rows: counts, range, quartiles, and a histogram (numbers, moments) or the most frequent
 * values.
 */
export async function profileColumn(
  warehouse: Warehouse,
  rows: Relation,
  column: ProfiledColumn,
  options: AskOptions = {},
): Promise<ColumnProfile> {
  const found = await warehouse.ask(overviewQuestion(rows, column), options);
  const hasHistogram = isMeasured(column.type) && found.distinct > TOP;
  return {
    column: column.name,
    rows: found.rows,
    missing: found.rows - found.present,
    distinct: found.distinct,
    smallest: found.smallest,
    largest: found.largest,
    quartiles: found.quartiles,
    mean: found.mean,
    histogram: hasHistogram ? await histogram(warehouse, rows, column, options) : [],
    topValues: hasHistogram ? [] : await warehouse.ask(valueCountsQuestion(rows, column.name, TOP), options),
  };
}

async function histogram(
  warehouse: Warehouse,
  rows: Relation,
  column: ProfiledColumn,
  options: AskOptions,
): Promise<readonly HistogramBar[]> {
  const range = await warehouse.ask(rangeQuestion(rows, column), options);
  if (!range || !(range[1] > range[0])) return [];
  const [low, high] = range;
  const counts = await warehouse.ask(barsQuestion(rows, column, range, BARS), options);
  const edge = (index: number): string => {
    const position = low + ((high - low) * index) / BARS;
    return isMoment(column.type)
      ? new Date(position * 1000).toISOString().slice(0, 10)
      : formatNumber(position);
  };
  return counts.map((rows, index) => ({ from: edge(index), to: edge(index + 1), rows }));
}
