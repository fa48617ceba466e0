"use client";
import { useCallback, useRef } from "react";
import { toast } from "sonner";
import type { Braid, Crossing } from "@/core/plan/braid";
import { moveStep } from "@/core/pipeline/edit/steps";
import type { DraftSurvey } from "@/runs/draft/survey";
import { useDesk } from "../draft/draft-context";
import { postJson } from "../queries/fetch-json";
import { lengthOf, type Place } from "./places";

/** What stands against a text, with what was known of it before. */
async function findReason(
  text: string,
  share: number,
  before: ReadonlySet<string>,
): Promise<{ readonly description: string } | undefined> {
  const survey = await postJson<DraftSurvey>("/api/draft/survey", { text, share });
  const found = survey.problems.find(({ severity, message }) => severity === "error" && !before.has(message));
  if (!found) return undefined;
  const step = found.location?.step;
  return { description: `${step ? `${step}: ` : ""}${found.message}` };
}

/**
 * Moves a step to another position of its strand when the order of steps allows it; otherwise says why not.
 * Moves that come faster than they can be checked run one after the other, each from where the last one put the step.
 * @param select selects the step at its new position
 */
export function useMove(select: (place: Place) => void): (crossing: Crossing, to: number) => Promise<void> {
  const { draft, braid, share, problems, steps } = useDesk();
  const now = useRef({ draft, braid, share, problems, steps });
  now.current = { draft, braid, share, problems, steps };
  const moving = useRef(Promise.resolve());
  return useCallback(
    (crossing: Crossing, to: number): Promise<void> => {
      const shift = to - crossing.position;
      const askedOf = now.current;
      const move = async (): Promise<void> => {
        const { draft: current, share: shownShare, problems: known } = now.current;
        const text = current.latest();
        const place = askedOf.steps.find(crossing, text);
        if (shift === 0 || !place) return;
        const target = place.position + shift;
        if (!isWithin(askedOf.braid, crossing, target)) {
          toast.info(
            `“${crossing.name}” is already the ${shift < 0 ? "first" : "last"} step of ${crossing.strand}.`,
          );
          return;
        }
        const moved = moveStep(text, place, target);
        if (!moved.ok) return;
        const before = new Set(known.map((problem) => problem.message));
        const checked = await findReason(moved.value, shownShare, before)
          .then((reason) => ({ reason }))
          .catch(() => undefined);
        if (!checked) {
          toast.error(`“${crossing.name}” was not moved: the new position could not be checked.`, {
            description: "The server did not respond. Try again.",
          });
          return;
        }
        if (checked.reason) {
          toast.error(
            `“${crossing.name}” cannot be moved ${shift < 0 ? "further left" : "further right"}.`,
            checked.reason,
          );
          return;
        }
        // Another edit may have moved the step while its new position was checked.
        let landed = target;
        const isMoved = askedOf.steps.edit(crossing, (latest, here) => {
          landed = here.position + shift;
          return moveStep(latest, here, landed);
        });
        if (isMoved) select({ strand: crossing.strand, after: landed + 1 });
      };
      moving.current = moving.current.catch(() => undefined).then(move);
      return moving.current;
    },
    [select],
  );
}

const isWithin = (braid: Braid | undefined, { strand }: Crossing, position: number): boolean =>
  position >= 0 && position < (braid ? lengthOf(braid, strand) : 1);
