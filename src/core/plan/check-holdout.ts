import type { PipelineFile } from "../pipeline/schema";
import { problem, type Problem } from "../problem";
import type { ColumnSet } from "../steps/step";

type Report = (found: Problem) => void;

/** A column that has the role, and for time the type, that a split needs. */
function checkSplitColumns(
  by: PipelineFile["holdout"]["by"],
  part: "holdout" | "folds",
  file: PipelineFile,
  output: ColumnSet,
  report: Report,
): void {
  const { roles } = file;
  const what = part === "holdout" ? "The holdout is" : "The folds are";
  if (by === "group" && roles.group === undefined)
    report(
      problem("holdout_group", `${what} by group, but no column has that role.`, "Add roles.group.", {
        path: [part, "by"],
      }),
    );
  if (by === "stratified" && roles.target.kind === "number")
    report(
      problem(
        "holdout_stratified",
        `${what} stratified by class, but the target is a number.`,
        "Use by: key.",
        { path: [part, "by"] },
      ),
    );
  if (by !== "time") return;
  if (roles.time === undefined)
    report(
      problem("holdout_time", `${what} by time, but no column has that role.`, "Add roles.time.", {
        path: [part, "by"],
      }),
    );
  const type = roles.time === undefined ? undefined : output.get(roles.time)?.type;
  if (type && !["date", "timestamp", "timestamptz"].includes(type))
    report(
      problem(
        "holdout_time",
        `"${roles.time}" is ${type}, not a date or time.`,
        "Name a date or time column under roles.time.",
        { path: ["roles", "time"] },
      ),
    );
}

/** Whether holdout, blind part and folds can be told apart as the file says. */
export function checkHoldout(file: PipelineFile, output: ColumnSet, report: Report): void {
  const { holdout, folds } = file;
  checkSplitColumns(holdout.by, "holdout", file, output, report);
  if (folds) checkSplitColumns(folds.by, "folds", file, output, report);
  const { blind } = holdout;
  if (holdout.by !== "time") {
    if (blind?.from !== undefined)
      report(
        problem(
          "blind_part",
          "A blind part that begins at a moment needs a holdout by time.",
          "Give it a share.",
          { path: ["holdout", "blind", "from"] },
        ),
      );
    if (blind && blind.share === undefined)
      report(
        problem("blind_part", "The blind part needs a share.", "Add share: 0.1.", {
          path: ["holdout", "blind"],
        }),
      );
    if (holdout.share + (blind?.share ?? 0) >= 1)
      report(
        problem(
          "blind_part",
          "Holdout and blind part together leave no rows to train on.",
          "Make their shares smaller.",
          { path: ["holdout", "blind"] },
        ),
      );
    return;
  }
  const begins = holdout.from === undefined ? Number.NaN : Date.parse(holdout.from);
  if (Number.isNaN(begins))
    report(
      problem(
        "holdout_time",
        "A holdout by time needs the moment at which it begins.",
        "Add from: 2026-05-01 (an ISO date).",
        { path: ["holdout"] },
      ),
    );
  if (!blind) return;
  const closed = blind.from === undefined ? Number.NaN : Date.parse(blind.from);
  if (Number.isNaN(closed))
    report(
      problem(
        "blind_part",
        "Beside a holdout by time, the blind part needs the moment at which it begins.",
        "Add from: 2026-06-01 (an ISO date).",
        { path: ["holdout", "blind"] },
      ),
    );
  else if (closed <= begins)
    report(
      problem(
        "blind_part",
        "The blind part begins before the holdout, which would then be empty.",
        "Let it begin later.",
        { path: ["holdout", "blind", "from"] },
      ),
    );
}
