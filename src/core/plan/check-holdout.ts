import type { Expression } from "../expression/ast";
import { suggestion } from "../nearest";
import type { PipelineFile } from "../pipeline/schema";
import { parseTableName, writeTableName } from "../pipeline/table-name";
import { problem, warning, type Problem } from "../problem";
import { isMoment } from "../value-type";
import { findTable, type Catalog } from "./catalog";
import { hasOneOf } from "../expression/has-value";
import type { CheckedStrand, Division, JudgingTable } from "./plan";
import { fitsContract, sourceColumn } from "./stand-in";

type Report = (found: Problem) => void;
type Path = readonly (string | number)[];

/** What the division of rows is checked against. */
export interface HoldoutContext {
  readonly file: PipelineFile;
  readonly main: CheckedStrand;
  readonly strands: readonly CheckedStrand[];
  readonly catalog: Catalog;
  readonly purpose: "training" | "scoring";
  /** Parses and checks a condition over the final rows. */
  readonly condition: (text: string, path: Path) => Expression;
  readonly report: Report;
}

/** The ways in which the blind part is told apart: exactly one is given. */
const BLIND_WAYS = ["share", "from", "groups", "where", "table"] as const;

/** Whether holdout, blind part and folds can be told apart as the file says, and the conditions and tables that do. */
export function checkHoldout(context: HoldoutContext): Division {
  const { file, report } = context;
  const { holdout, folds } = file;
  if (["stratified", "group", "time"].includes(holdout.by))
    checkSplitColumns(holdout.by, "The holdout is", ["holdout", "by"], context);
  if (folds) checkSplitColumns(folds.by, "The folds are", ["folds", "by"], context);
  if (holdout.by === "time") checkMoments(file, report);
  checkUnread(holdout, report);
  checkBlindPart(context);
  const held = heldRows(context);
  const { blind } = holdout;
  const closed = closedRows(context);
  const tables = [
    holdout.by === "table"
      ? judgingTable("holdout", holdout.table, ["holdout", "table"], context)
      : undefined,
    blind?.table === undefined
      ? undefined
      : judgingTable("blind", blind.table, ["holdout", "blind", "table"], context),
  ].filter((table) => table !== undefined);
  return { ...(held ? { held } : {}), ...(closed ? { closed } : {}), tables };
}

/** A column that has the role, and for time the type, that a division needs. */
function checkSplitColumns(
  by: PipelineFile["holdout"]["by"],
  what: string,
  path: Path,
  { file: { roles }, main, report }: HoldoutContext,
): void {
  if (by === "group" && roles.group === undefined)
    report(
      problem("holdout_group", `${what} by group, but no column has that role.`, "Add roles.group.", {
        path,
      }),
    );
  if (by === "stratified" && roles.target.kind === "number")
    report(
      problem(
        "holdout_stratified",
        `${what} stratified by class, but the target is a number.`,
        "Use by: key.",
        { path },
      ),
    );
  if (by === "time") checkTime(what, path, { file: { roles }, main, report });
}

function checkTime(
  what: string,
  path: Path,
  {
    file: { roles },
    main,
    report,
  }: { readonly file: Pick<PipelineFile, "roles"> } & Pick<HoldoutContext, "main" | "report">,
): void {
  if (roles.time === undefined) {
    report(
      problem("holdout_time", `${what} by time, but no column has that role.`, "Add roles.time.", { path }),
    );
    return;
  }
  const type = main.output.get(roles.time)?.type;
  if (type && !isMoment(type))
    report(
      problem(
        "holdout_time",
        `"${roles.time}" is ${type}, not a date or time.`,
        "Name a date or time column under roles.time.",
        { path: ["roles", "time"] },
      ),
    );
}

/** The moments at which a holdout by time and a blind part behind it begin. */
function checkMoments({ holdout }: PipelineFile, report: Report): void {
  const begins = holdout.from === undefined ? Number.NaN : Date.parse(holdout.from);
  if (Number.isNaN(begins))
    report(
      problem("holdout_time", "A holdout by time needs a start.", "Add from: 2026-05-01 (an ISO date).", {
        path: ["holdout"],
      }),
    );
  const closed = holdout.blind?.from === undefined ? Number.NaN : Date.parse(holdout.blind.from);
  if (closed <= begins)
    report(
      problem(
        "blind_part",
        "The blind holdout starts before the holdout, which would then be empty.",
        "Set a later start.",
        { path: ["holdout", "blind", "from"] },
      ),
    );
}

/** What is said of a way that the holdout is not told apart by. */
function checkUnread(holdout: PipelineFile["holdout"], report: Report): void {
  const readBy = { from: "time", groups: "named", where: "condition", table: "table" } as const;
  for (const [setting, way] of Object.entries(readBy) as [keyof typeof readBy, string][]) {
    if (holdout[setting] !== undefined && holdout.by !== way)
      report(
        warning(
          "holdout_unread",
          `holdout.${setting} is set, but the holdout is by: ${holdout.by}, which ignores it.`,
          `Write by: ${way}, or remove ${setting}.`,
          { path: ["holdout", setting] },
        ),
      );
  }
}

function checkBlindPart(context: HoldoutContext): void {
  const { holdout } = context.file;
  const { blind } = holdout;
  if (!blind) return;
  const report = (message: string, hint: string, path: Path = ["holdout", "blind"]): void =>
    context.report(problem("blind_part", message, hint, { path }));
  const said = BLIND_WAYS.filter((way) => blind[way] !== undefined);
  if (said.length !== 1)
    report(
      said.length === 0
        ? "No rule for the rows of the blind holdout."
        : `The blind holdout is selected in ${said.length} ways: ${said.join(", ")}.`,
      said.length === 0
        ? "Add share: 0.1; or from, groups, where or table."
        : "Keep one of them. A where condition can combine several.",
    );
  const shared = ["key", "stratified", "group"].includes(holdout.by) ? holdout.share : 0;
  if (blind.share !== undefined && shared + blind.share >= 1)
    report("Holdout and blind holdout leave no rows to train on.", "Reduce their shares.");
  if (blind.from === undefined) return;
  if (holdout.by !== "time") checkTime("The blind holdout is", ["holdout", "blind", "from"], context);
  if (Number.isNaN(Date.parse(blind.from)))
    report(
      `"${blind.from}" is not a valid start of the blind holdout.`,
      "Write from: 2026-06-01 (an ISO date).",
      ["holdout", "blind", "from"],
    );
}

/** Rows of the holdout, where groups or a condition tell them apart. */
function heldRows(context: HoldoutContext): Expression | undefined {
  const { file, report } = context;
  const { holdout } = file;
  if (holdout.by === "named") {
    if (holdout.groups !== undefined) {
      reportOverlap(holdout.groups, holdout.blind?.groups ?? [], report);
      return namedGroups(holdout.groups, ["holdout", "groups"], context);
    }
    report(
      problem(
        "holdout_group",
        "The holdout is by named groups, but none is listed.",
        "Add groups: [...], values of the column under roles.group.",
        { path: ["holdout", "by"] },
      ),
    );
  }
  if (holdout.by !== "condition") return undefined;
  if (holdout.where !== undefined) return context.condition(holdout.where, ["holdout", "where"]);
  report(
    problem(
      "holdout_condition",
      "The holdout is by condition, but none is set.",
      "Add where: followed by the condition.",
      { path: ["holdout", "by"] },
    ),
  );
  return undefined;
}

/** Rows of the blind part, where groups or a condition tell them apart. */
function closedRows(context: HoldoutContext): Expression | undefined {
  const { blind } = context.file.holdout;
  if (blind?.groups !== undefined) return namedGroups(blind.groups, ["holdout", "blind", "groups"], context);
  if (blind?.where === undefined) return undefined;
  return context.condition(blind.where, ["holdout", "blind", "where"]);
}

function reportOverlap(
  held: readonly (string | number | boolean)[],
  closed: readonly (string | number | boolean)[],
  report: Report,
): void {
  const both = closed.filter((group) => held.includes(group));
  if (both.length > 0)
    report(
      problem(
        "blind_part",
        `${both.map((group) => `"${group}"`).join(", ")}: listed in both the holdout and the blind holdout.`,
        "List each group in one of them.",
        { path: ["holdout", "blind", "groups"] },
      ),
    );
}

function namedGroups(
  groups: readonly (string | number | boolean)[],
  path: Path,
  { file: { roles }, main, report }: HoldoutContext,
): Expression | undefined {
  if (roles.group === undefined) {
    report(
      problem("holdout_group", "Groups are listed, but no column has the group role.", "Add roles.group.", {
        path,
      }),
    );
    return undefined;
  }
  const state = main.output.get(roles.group);
  if (!state) return undefined;
  const { condition, impossible } = hasOneOf(roles.group, state.type, groups);
  if (impossible.length === 0) return condition;
  report(
    problem(
      "type_clash",
      `"${roles.group}" is ${state.type} and cannot be ${impossible.map((group) => JSON.stringify(group)).join(" or ")}.`,
      "Write the groups as they appear in the column.",
      { path },
    ),
  );
  return undefined;
}

/** The strand at which the rows of the main one begin, through strands that begin with another. */
function rootOf(strand: CheckedStrand, strands: readonly CheckedStrand[]): CheckedStrand | undefined {
  const { from } = strand;
  if (from.kind === "table") return strand;
  const below = strands.find(({ name }) => name === from.name);
  return below && rootOf(below, strands);
}

/** A table whose rows judge; it has every column of the one that the main strand descends from. */
function judgingTable(
  part: JudgingTable["part"],
  written: string | undefined,
  path: Path,
  { main, strands, catalog, purpose, report }: HoldoutContext,
): JudgingTable | undefined {
  if (purpose === "scoring") return undefined;
  if (written === undefined) {
    report(
      problem("holdout_table", "The holdout is another table, but none is set.", "Add table: schema.table.", {
        path: ["holdout", "by"],
      }),
    );
    return undefined;
  }
  const source = parseTableName(written);
  const found = source && findTable(catalog, source);
  const root = rootOf(main, strands);
  if (!found) {
    report(
      problem(
        "unknown_table",
        `There is no table "${written}".`,
        suggestion(written, catalog.tables.map(writeTableName), "table"),
        { path },
      ),
    );
    return undefined;
  }
  if (root?.from.kind !== "table") return undefined;
  const own = findTable(catalog, root.from.source);
  if (own === found) {
    report(
      problem(
        "holdout_table",
        `"${written}" is the training table; its rows cannot evaluate the model trained on them.`,
        "Choose another table, or hold out a share of this one.",
        { path },
      ),
    );
    return undefined;
  }
  const wanted = [...root.start.keys()].map((name) => sourceColumn(root, name));
  const unfit = (own?.columns ?? [])
    .filter(({ name }) => wanted.includes(name))
    .flatMap((column) => {
      const there = found.columns.find(({ name }) => name === column.name);
      if (!there) return [`"${column.name}" is missing`];
      return fitsContract(there, column)
        ? []
        : [`"${column.name}" is ${there.declared} instead of ${column.declared}`];
    });
  if (unfit.length === 0)
    return {
      part,
      source: { schema: found.schema, table: found.table },
      columns: new Map(found.columns.map(({ name, type }) => [name, type])),
    };
  const more = unfit.length > 3 ? `, and ${unfit.length - 3} more` : "";
  report(
    problem(
      "holdout_table",
      `"${written}" does not have the columns of ${writeTableName(root.from.source)}: ${unfit.slice(0, 3).join(", ")}${more}.`,
      "Evaluate with a table that has all of them, with the same types.",
      { path },
    ),
  );
  return undefined;
}
