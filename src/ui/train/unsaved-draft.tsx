"use client";
import { TriangleAlert } from "lucide-react";
import { formatCount } from "@/core/format/numbers";
import { saveAndTrain } from "@/server/training-actions";
import { ActButton } from "../basic/act";
import { PageLink } from "../basic/page-link";

/** Says that a training would not be of what stands in the Braid, and offers to save that and train it. */
export function UnsavedDraft({
  pipeline,
  version,
  errors,
}: {
  readonly pipeline: string;
  /** The newest version of the file. */
  readonly version: number;
  /** How many errors the draft has. */
  readonly errors: number;
}) {
  return (
    <section
      aria-label="Unsaved draft"
      className="mb-6 flex flex-wrap items-center gap-x-4 gap-y-2 border-y border-rule py-3"
    >
      <TriangleAlert size={16} aria-hidden className="shrink-0 text-weld" />
      <p>
        The <PageLink href={`/pipelines/${encodeURIComponent(pipeline)}/braid`}>draft in the Braid</PageLink>{" "}
        is not saved. What is trained below is version {version} of the file.
        {errors > 0 && ` The draft has ${formatCount(errors, "error")}, so it cannot be saved yet.`}
      </p>
      <ActButton
        main
        act={() => saveAndTrain(pipeline)}
        disabled={errors > 0}
        done={`Saved as version ${version + 1}; training is queued.`}
      >
        Save and train
      </ActButton>
    </section>
  );
}
