"use client";
import { TARGET_WORDS } from "@/core/learn/task";
import { useMemo } from "react";
import { toast } from "sonner";
import type { Crossing } from "@/core/plan/braid";
import { addStrand, changePart, readPasted, strandText, valueIn } from "@/core/pipeline/edit/parts";
import {
  changeStep,
  duplicateStep,
  insertStep,
  noStep,
  removeStep,
  stepText,
} from "@/core/pipeline/edit/steps";
import { joinTable, type JoinedTable } from "@/core/pipeline/edit/join-table";
import { giveRole, giveTarget, type GivenRole, type TargetChoice } from "@/core/pipeline/edit/roles";
import { proposeTarget } from "@/core/pipeline/proposal/propose-target";
import type { PlacedProfile } from "@/runs/draft/profile-at";
import { postJson } from "../queries/fetch-json";
import { useDesk } from "../draft/draft-context";
import { columnsAt, lengthOf, mainGroup, type Place } from "./places";
import { useMove } from "./use-move";
import { newStep } from "./verbs";

/** Where copied steps wait, for this pipeline and any other. */
const COPIED = "ravlen-copied";

export interface BraidActions {
  /** Puts a new step at a place. */
  readonly insert: (kind: string, place: Place, picked: readonly string[]) => void;
  /** Joins a table at a place. @param here names of the columns there */
  readonly joinTable: (table: JoinedTable, place: Place, here: readonly string[]) => void;
  readonly remove: (crossing: Crossing) => void;
  readonly duplicate: (crossing: Crossing) => void;
  readonly switchOff: (crossing: Crossing) => void;
  /** Moves a step to another position of its strand, when the order allows it; else says why not. */
  readonly move: (crossing: Crossing, to: number) => Promise<void>;
  readonly copy: (crossing: Crossing) => void;
  readonly copyStrand: (strand: string) => void;
  /** Puts copied steps and strands in: of a text, or what was copied last. */
  readonly paste: (place: Place, text?: string) => void;
  readonly mark: (columns: readonly string[], known: string | undefined) => void;
  readonly leaveOut: (columns: readonly string[], out: boolean) => void;
  /** Gives columns a role. What kind of answer a column is comes from its values. */
  readonly giveRole: (columns: readonly string[], role: GivenRole | "target") => Promise<void>;
}

type Excluded = readonly { readonly column: string; readonly because: string }[];

/** What can be done in the Braid; every action is an edit of the file. */
export function useBraidActions(select: (place: Place) => void): BraidActions {
  const { draft, braid, steps } = useDesk();
  const move = useMove(select);
  return useMemo(() => {
    const strandIndex = (name: string): number =>
      braid?.groups.find((group) => group.strand === name)?.index ?? -1;
    const copyText = (text: string, what: string): void => {
      localStorage.setItem(COPIED, text);
      navigator.clipboard?.writeText(text).catch(() => undefined);
      toast.success(`${what} copied; paste it here or in another pipeline.`);
    };
    return {
      insert: (kind, place, picked) => {
        const here = braid ? columnsAt(braid, place) : [];
        if (
          draft.edit((text) =>
            insertStep(
              text,
              { strand: strandIndex(place.strand), position: place.after },
              newStep(kind, picked, here),
            ),
          )
        )
          select({ ...place, after: place.after + 1 });
      },
      joinTable: (table, place, here) => {
        const at = { strand: strandIndex(place.strand), position: place.after };
        if (draft.edit((text) => joinTable(text, at, table, here)))
          select({ ...place, after: place.after + 1 });
      },
      remove: (crossing) => {
        const place = steps.find(crossing, draft.latest());
        if (steps.edit(crossing, removeStep) && place)
          select({ strand: crossing.strand, after: place.position });
      },
      duplicate: (crossing) => {
        const place = steps.find(crossing, draft.latest());
        if (steps.edit(crossing, duplicateStep) && place)
          select({ strand: crossing.strand, after: place.position + 2 });
      },
      switchOff: (crossing) =>
        void steps.edit(crossing, (text, place) =>
          changeStep(text, place, [{ path: ["off"], value: crossing.off ? undefined : true }]),
        ),
      move,
      copy: (crossing) => {
        const place = steps.find(crossing, draft.latest());
        const text = place ? stepText(draft.latest(), place) : noStep();
        if (text.ok) copyText(text.value, `“${crossing.name}”`);
      },
      copyStrand: (strand) => {
        const text = strandText(draft.latest(), strandIndex(strand));
        if (text.ok) copyText(text.value, `The strand ${strand}`);
      },
      paste: (place, given) => {
        const found = readPasted(given ?? localStorage.getItem(COPIED) ?? "");
        if (found.length === 0) {
          toast.info("The clipboard holds no step or strand.");
          return;
        }
        let at = place.after;
        for (const step of found) {
          if (step.kind === "strand") {
            const taken = braid?.groups.map((group) => group.strand) ?? [];
            const name = String(step.strand["name"]);
            draft.edit((text) =>
              addStrand(text, taken.includes(name) ? { ...step.strand, name: `${name} again` } : step.strand),
            );
          } else if (
            draft.edit((text) =>
              insertStep(text, { strand: strandIndex(place.strand), position: at }, step.step),
            )
          ) {
            at += 1;
            select({ ...place, after: at });
          }
        }
      },
      mark: (columns, known) =>
        columns.forEach(
          (name) => void draft.edit((text) => changePart(text, ["roles", "known", name], known)),
        ),
      giveRole: async (columns, role) => {
        if (role !== "target") {
          for (const column of columns) draft.edit((text) => giveRole(text, column, role));
          return;
        }
        const main = braid && mainGroup(braid);
        const [column] = columns;
        if (!braid || !main || column === undefined) return;
        const target = await proposedTarget(draft.text, {
          strand: main.strand,
          after: lengthOf(braid, main.strand),
          column,
        });
        if (target) draft.edit((text) => giveTarget(text, target));
      },
      leaveOut: (columns, out) => {
        void draft.edit((text) => {
          const now = excludedIn(text);
          const kept = now.filter((filter) => !columns.includes(filter.column));
          const next = out
            ? [...kept, ...columns.map((column) => ({ column, because: "excluded for now" }))]
            : kept;
          return changePart(text, ["roles", "exclude"], next.length > 0 ? next : undefined);
        });
      },
    };
  }, [draft, braid, steps, move, select]);
}

/** What kind of answer a column would be, by its values; what stands against it is said. */
async function proposedTarget(
  text: string,
  place: { readonly strand: string; readonly after: number; readonly column: string },
): Promise<TargetChoice | undefined> {
  const asked = postJson<PlacedProfile | null>("/api/draft/profile", { text, ...place });
  const found = await asked.catch((error: unknown) => {
    toast.error(`“${place.column}” was not made the target.`, {
      description: error instanceof Error ? error.message : String(error),
    });
    return null;
  });
  if (!found) return undefined;
  const { kind, positive, trouble } = proposeTarget(found.profile, found.type);
  if (trouble !== undefined) {
    toast.error(`“${place.column}” was not made the target.`, { description: trouble });
    return undefined;
  }
  const said = positive === undefined ? "" : ` “${String(positive)}” counts as positive;`;
  toast.success(`“${place.column}” is the target: ${TARGET_WORDS[kind]}.`, {
    description:
      `${said} The kind${positive === undefined ? "" : " and the positive value"} can be changed on Train.`.trim(),
  });
  return { column: place.column, kind, positive };
}

/** The columns that a text leaves out of the features. */
function excludedIn(text: string): Excluded {
  const value = valueIn(text, ["roles", "exclude"]);
  return Array.isArray(value) ? (value as Excluded) : [];
}
