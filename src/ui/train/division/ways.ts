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
      ["key", "a random share of the rows"],
      ["stratified", "a stratified share of the rows"],
      ["group", `a share of the groups by ${group}`],
      ["named", `groups by ${group} that I choose`],
      ["time", `rows from a day on, by ${file.roles.time ?? "time"}`],
      ["condition", "rows that meet a condition"],
      ["table", "the rows of another table"],
      ["none", "none: train on all rows"],
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
      ["share", whole ? `a share of the groups by ${group}` : "a random share of the rows"],
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
      ["stratified", "stratified by class"],
      ["group", `of whole groups by ${file.roles.group ?? "group"}`],
      ["time", "forward in time"],
    ],
    file,
    kept,
  );
