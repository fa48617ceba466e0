import type { PipelineFile } from "@/core/pipeline/schema";
import type { BlindWay, DivisionDraft, HoldoutWay } from "./division-draft";

type Ways<Way> = readonly (readonly [way: Way, says: string])[];

/** What rows can be told apart by, as far as the roles allow it. */
const allowed = <Way extends string>(ways: Ways<Way>, { roles }: PipelineFile, kept: Way): Ways<Way> =>
  ways.filter(([way]) => {
    if (way === kept) return true;
    if (["group", "named", "groups"].includes(way)) return roles.group !== undefined;
    if (["time", "from"].includes(way)) return roles.time !== undefined;
    return way !== "stratified" || roles.target.kind !== "number";
  });

export const holdoutWays = (file: PipelineFile, kept: HoldoutWay): Ways<HoldoutWay> => {
  const group = file.roles.group ?? "group";
  return allowed(
    [
      ["key", "a share of the rows, at random"],
      ["stratified", "a share of the rows, the same of every class"],
      ["group", `a share of the groups by ${group}`],
      ["named", `groups by ${group} that I choose`],
      ["time", `rows from a day on, by ${file.roles.time ?? "time"}`],
      ["condition", "rows that meet a condition"],
      ["table", "the rows of another table"],
      ["none", "no rows: train on all of them"],
    ],
    file,
    kept,
  );
};

export const blindWays = (file: PipelineFile, kept: BlindWay, by: HoldoutWay): Ways<BlindWay> => {
  const group = file.roles.group ?? "group";
  const whole = by === "group" || by === "named";
  return allowed(
    [
      ["nothing", "none"],
      ["share", whole ? `a share of the groups by ${group}` : "a share of the rows, at random"],
      ["groups", `groups by ${group} that I choose`],
      ["from", `rows from a day on, by ${file.roles.time ?? "time"}`],
      ["where", "rows that meet a condition"],
      ["table", "the rows of another table"],
    ],
    file,
    kept,
  );
};

export const foldWays = (file: PipelineFile, kept: DivisionDraft["folds"]): Ways<DivisionDraft["folds"]> =>
  allowed(
    [
      ["nothing", "none"],
      ["key", "of rows at random"],
      ["stratified", "with the same share of every class"],
      ["group", `of whole groups by ${file.roles.group ?? "group"}`],
      ["time", "forward in time"],
    ],
    file,
    kept,
  );
