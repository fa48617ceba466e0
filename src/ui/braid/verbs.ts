import { writeColumnName } from "@/core/expression/column-name";
import type { RawStep } from "@/core/pipeline/edit/steps";
import type { ColumnHere } from "./places";

/** Kinds of steps by what they are about, in the order in which they are offered. */
export const STEP_GROUPS: readonly (readonly [name: string, kinds: readonly string[]])[] = [
  ["Rows", ["filter", "deduplicate", "sample", "limit", "stack"]],
  ["Join and stack", ["join", "join_latest"]],
  [
    "Columns",
    [
      "derive",
      "keep",
      "drop",
      "rename",
      "convert",
      "map",
      "clip",
      "date_parts",
      "elapsed",
      "extract",
      "split",
    ],
  ],
  ["Missing values", ["fill"]],
  ["Numbers", ["scale", "bin", "transform", "baseline", "cycle"]],
  ["Categories", ["encode", "ordinal", "frequency", "target_mean", "group_rare"]],
  ["Text", ["text_terms"]],
  ["Aggregate rows", ["aggregate", "pivot", "unpivot"]],
  ["Over time", ["lag", "rolling"]],
  ["Labels, SQL, checks", ["label_regions", "sql", "check"]],
];

type Fit = (picked: readonly ColumnHere[]) => boolean;

const every =
  (...families: readonly string[]): Fit =>
  (picked) =>
    picked.length > 0 && picked.every((column) => families.includes(column.family));
const one =
  (...families: readonly string[]): Fit =>
  (picked) =>
    picked.length === 1 && families.includes(picked[0]!.family);
const any: Fit = (picked) => picked.length > 0;

/** Which kinds fit picked columns, the most fitting first. */
const FITS: readonly (readonly [kind: string, fits: Fit])[] = [
  ["label_regions", (picked) => picked.length === 2 && picked.every((column) => column.family === "number")],
  ["elapsed", (picked) => picked.length === 2 && picked.every((column) => column.family === "time")],
  ["fill", every("number", "text", "yes/no")],
  ["scale", every("number")],
  ["baseline", every("number")],
  ["clip", every("number")],
  ["bin", every("number")],
  ["transform", every("number")],
  ["date_parts", one("time")],
  ["encode", every("text")],
  ["group_rare", every("text")],
  ["target_mean", every("text")],
  ["map", one("text", "number", "yes/no")],
  ["text_terms", one("text")],
  ["extract", one("text")],
  ["split", one("text")],
  ["ordinal", every("text")],
  ["frequency", every("text")],
  ["lag", every("number")],
  ["rolling", every("number")],
  ["elapsed", one("time")],
  ["derive", any],
  ["filter", any],
  ["aggregate", any],
  ["deduplicate", any],
  ["convert", any],
  ["rename", any],
  ["keep", any],
  ["drop", any],
  ["check", any],
];

/** Kinds of steps that make sense for the picked columns. */
export const fittingKinds = (picked: readonly ColumnHere[]): readonly string[] => [
  ...new Set(FITS.filter(([, fits]) => fits(picked)).map(([kind]) => kind)),
];

const orNothing = (names: readonly string[], key = "columns"): RawStep =>
  names.length > 0 ? { [key]: names } : {};

/**
 * A new step about the picked columns: as complete as can be guessed, the rest is asked for in its form.
 * @param here columns at the place where it will stand
 */
export function newStep(kind: string, picked: readonly string[], here: readonly ColumnHere[]): RawStep {
  const families = picked.map((name) => here.find((column) => column.name === name)?.family);
  const time = here.find((column) => column.family === "time")?.name;
  const first = picked[0];
  const column = first === undefined ? {} : { column: first };
  const rest = ((): RawStep => {
    switch (kind) {
      case "filter":
        return {
          where:
            picked.length > 0
              ? picked.map((name) => `${writeColumnName(name)} is not null`).join(" and ")
              : "true",
        };
      case "deduplicate":
        return picked.length > 0 ? { by: picked } : {};
      case "sample":
        return { ...orNothing(picked, "by"), share: 0.1 };
      case "limit":
        return {
          order: picked.length > 0 ? picked : here.slice(0, 1).map((column) => column.name),
          rows: 1000,
        };
      case "derive":
        return { columns: { new_column: first === undefined ? "1" : writeColumnName(first) } };
      case "rename":
        return { columns: Object.fromEntries(picked.map((name) => [name, `${name}_2`])) };
      case "convert":
        return {
          columns: Object.fromEntries(
            picked.map((name) => [name, families[0] === "text" ? "double precision" : "text"]),
          ),
        };
      case "map":
        return { ...column, values: {} };
      case "date_parts":
        return { ...column, parts: ["weekday", "hour"] };
      case "elapsed":
        return {
          ...(first === undefined ? {} : { from: first }),
          ...(picked[1] === undefined ? {} : { to: picked[1] }),
          into: "elapsed_days",
        };
      case "extract":
        return { ...column, pattern: "([0-9]+)", into: [`${first ?? "text"}_part`] };
      case "split":
        return { ...column, at: " ", into: [`${first ?? "text"}_1`, `${first ?? "text"}_2`] };
      case "fill":
        return {
          ...orNothing(picked),
          with: families.every((family) => family === "number") ? "median" : "most_frequent",
        };
      case "scale":
        return { ...orNothing(picked), method: "standard" };
      case "clip":
        return { ...orNothing(picked), low: { quantile: 0.01 }, high: { quantile: 0.99 } };
      case "bin":
        return { ...orNothing(picked), at: { quantiles: 10 } };
      case "transform":
        return { ...orNothing(picked), method: "log1p" };
      case "cycle":
        return { ...orNothing(picked), period: 24 };
      case "text_terms":
      case "pivot":
        return column;
      case "aggregate":
        return { ...orNothing(picked, "by"), measures: { rows: "count(*)" } };
      case "lag":
        return { ...orNothing(picked), ...(time === undefined ? {} : { order: time }), back: [1] };
      case "rolling":
        return {
          ...(time === undefined ? {} : { order: time }),
          last: "7 days",
          measures: Object.fromEntries(
            picked.length > 0
              ? picked.map((name) => [`${name}_week`, `avg(${writeColumnName(name)})`])
              : [["rows_before", "count(*)"]],
          ),
        };
      case "label_regions":
        return {
          ...(first === undefined ? {} : { x: first }),
          ...(picked[1] === undefined ? {} : { y: picked[1] }),
        };
      case "sql":
        return { select: `SELECT * FROM strand` };
      case "check":
        return picked.length > 0 ? { not_missing: picked } : { rows: { least: 1 } };
      case "join":
      case "join_latest":
        return picked.length > 0 ? { on: picked } : {};
      case "stack":
        return {};
      default:
        return orNothing(picked);
    }
  })();
  return { do: kind, ...rest };
}
