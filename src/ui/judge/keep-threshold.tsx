"use client";
import { useState } from "react";
import { toast } from "sonner";
import { formatNumber, roundDown } from "@/core/format/numbers";
import type { Problem } from "@/core/problem";
import { keepThreshold } from "@/server/file-actions";
import { PageLink } from "../basic/page-link";
import { Problems } from "../basic/problems";
import { usePageRefresh } from "../basic/page-refresh";
import { useAction } from "../basic/use-action";
import { Select } from "../select/select";

export interface DeliveryThreshold {
  readonly name: string;
  readonly threshold: number;
}

/** Keeps the threshold that was chosen for a delivery of the pipeline, in its file. */
export function KeepThreshold({
  pipeline,
  deliveries,
  threshold: exact,
}: {
  readonly pipeline: string;
  readonly deliveries: readonly DeliveryThreshold[];
  readonly threshold: number;
}) {
  const refresh = usePageRefresh();
  // Downwards, so that the row whose score it is stays on the same side.
  const threshold = roundDown(exact, 6);
  const [chosen, setChosen] = useState(deliveries[0]?.name ?? "");
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const deliver = `/pipelines/${encodeURIComponent(pipeline)}/deliver`;
  const delivery = deliveries.find(({ name }) => name === chosen);
  if (!delivery)
    return (
      <p className="mt-3 text-caption">
        No deliveries yet.{" "}
        <PageLink href={`${deliver}?threshold=${threshold}`}>
          Add one with the threshold {formatNumber(threshold)}
        </PageLink>
      </p>
    );
  const keep = async (): Promise<void> => {
    const outcome = await ask(() => keepThreshold(pipeline, delivery.name, threshold));
    if (!outcome.ok) return setRefused(outcome.problems);
    setRefused([]);
    toast.success(
      `“${delivery.name}” predicts yes from ${formatNumber(threshold)} on; version ${outcome.value.version} of the file.`,
    );
    refresh();
  };
  return (
    <div className="mt-3 text-caption">
      <div className="flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="press"
          disabled={busy || delivery.threshold === threshold}
          onClick={() => void keep()}
        >
          Use {formatNumber(threshold)} for
        </button>
        <Select
          label="Delivery"
          value={chosen}
          options={deliveries.map(({ name }) => name)}
          onChange={setChosen}
        />
        <span className="text-faded">
          {delivery.threshold === threshold
            ? "This is its threshold."
            : `Its threshold is ${formatNumber(delivery.threshold)} now.`}
        </span>
      </div>
      {refused.length > 0 && (
        <div className="mt-2">
          <Problems problems={refused} />
        </div>
      )}
    </div>
  );
}
