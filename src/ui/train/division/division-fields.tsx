"use client";
import type { PipelineFile } from "@/core/pipeline/schema";
import { HAS_SHARE } from "./division-draft";
import { GroupChoice } from "./group-choice";
import { TableField, TextField, WayField } from "./part-fields";
import type { useDivision } from "./use-division";
import { blindWays, foldWays, holdoutWays } from "./ways";

interface Props {
  readonly file: PipelineFile;
  readonly division: ReturnType<typeof useDivision>;
  readonly tables: readonly string[];
  readonly numberGroups: boolean;
}

/** What is chosen: the holdout, the blind part, folds and the seed. */
export function DivisionFields({ file, division, tables, numberGroups }: Props) {
  const { draft, change, mistakes, counts } = division;
  const byName = draft.by === "named" || draft.blind === "groups";
  const random = HAS_SHARE.includes(draft.by) || draft.blind === "share";
  return (
    <>
      <WayField
        name="Hold out"
        value={draft.by}
        ways={holdoutWays(file, draft.by)}
        onChange={(by) => change({ by })}
      />
      <HeldField division={division} tables={tables} />
      <WayField
        name="Blind holdout"
        value={draft.blind}
        ways={blindWays(file, draft.blind, draft.by)}
        onChange={(blind) => change({ blind })}
      />
      <ClosedField division={division} tables={tables} />
      {byName && (
        <GroupChoice
          column={file.roles.group ?? ""}
          groups={counts?.groups ?? []}
          more={counts?.moreGroups ?? 0}
          held={draft.by === "named" ? draft.groups : []}
          closed={draft.blind === "groups" ? draft.blindGroups : []}
          choices={[
            ...(draft.by === "named" ? (["holdout"] as const) : []),
            ...(draft.blind === "groups" ? (["blind"] as const) : []),
          ]}
          mistake={mistakes.groups ?? mistakes.blindGroups}
          onChange={(groups, blindGroups) => change({ groups, blindGroups })}
          valueOf={(text) => (numberGroups ? Number(text) : text)}
        />
      )}
      {random && (
        <TextField
          name="Seed"
          field="seed"
          value={draft.seed}
          width="w-28"
          mistakes={mistakes}
          onChange={(seed) => change({ seed })}
        />
      )}
      <WayField
        name="Folds"
        value={draft.folds}
        ways={foldWays(file, draft.folds)}
        onChange={(folds) => change({ folds })}
      />
      {draft.folds !== "nothing" && (
        <TextField
          name="How many"
          field="foldCount"
          value={draft.foldCount}
          width="w-20"
          mistakes={mistakes}
          onChange={(foldCount) => change({ foldCount })}
        />
      )}
    </>
  );
}

/** The field that goes with the way in which the holdout is told apart. */
function HeldField({ division: { draft, change, mistakes }, tables }: Pick<Props, "division" | "tables">) {
  switch (draft.by) {
    case "time":
      return (
        <TextField
          name="From"
          field="from"
          value={draft.from}
          width="w-40"
          mistakes={mistakes}
          onChange={(from) => change({ from })}
        />
      );
    case "condition":
      return (
        <TextField
          name="Rows where"
          field="where"
          value={draft.where}
          mistakes={mistakes}
          onChange={(where) => change({ where })}
        />
      );
    case "table":
      return (
        <TableField
          name="Table"
          field="table"
          value={draft.table}
          mistakes={mistakes}
          tables={tables}
          onChange={(table) => change({ table })}
        />
      );
    case "named":
    case "none":
      return null;
    default:
      return (
        <TextField
          name="Share"
          field="share"
          value={draft.share}
          width="w-28"
          mistakes={mistakes}
          onChange={(share) => change({ share })}
        />
      );
  }
}

/** The same for the blind part. */
function ClosedField({ division: { draft, change, mistakes }, tables }: Pick<Props, "division" | "tables">) {
  switch (draft.blind) {
    case "share":
      return (
        <TextField
          name="Blind share"
          field="blindShare"
          value={draft.blindShare}
          width="w-28"
          mistakes={mistakes}
          onChange={(blindShare) => change({ blindShare })}
        />
      );
    case "from":
      return (
        <TextField
          name="Blind from"
          field="blindFrom"
          value={draft.blindFrom}
          width="w-40"
          mistakes={mistakes}
          onChange={(blindFrom) => change({ blindFrom })}
        />
      );
    case "where":
      return (
        <TextField
          name="Blind where"
          field="blindWhere"
          value={draft.blindWhere}
          mistakes={mistakes}
          onChange={(blindWhere) => change({ blindWhere })}
        />
      );
    case "table":
      return (
        <TableField
          name="Blind table"
          field="blindTable"
          value={draft.blindTable}
          mistakes={mistakes}
          tables={tables}
          onChange={(blindTable) => change({ blindTable })}
        />
      );
    default:
      return null;
  }
}
