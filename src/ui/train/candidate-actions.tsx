"use client";
import { FlaskConical, Trash2 } from "lucide-react";
import { removeListed } from "@/server/file-actions";
import { startTrial } from "@/server/training-actions";
import { ActButton } from "../basic/act";

/** Trains a candidate, here followed on the page itself; or tries it on a tenth of the rows first. */
export function CandidateActions({
  pipeline,
  candidate,
  place,
  only,
}: {
  readonly pipeline: string;
  readonly candidate: string;
  readonly place: number;
  readonly only: boolean;
}) {
  return (
    <span data-trains className="flex items-center justify-end gap-1">
      <ActButton
        main={place === 0}
        name={`Train “${candidate}”`}
        act={() => startTrial({ pipeline, candidate })}
        done={`“${candidate}” is queued.`}
      >
        Train
      </ActButton>
      <ActButton
        icon={FlaskConical}
        act={() => startTrial({ pipeline, candidate, share: 0.1 })}
        done={`A trial of “${candidate}” on 10 % of the rows is queued.`}
      >
        Train on 10 %
      </ActButton>
      <ActButton
        icon={Trash2}
        act={() => removeListed(pipeline, "candidates", place)}
        disabled={only}
        confirm={`Remove “${candidate}” from the file? Its trials are kept.`}
        done="Removed from the file."
      >
        Remove
      </ActButton>
    </span>
  );
}
