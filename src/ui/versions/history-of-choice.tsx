"use client";
import { useQueryState } from "nuqs";
import type { VersionHistory as History } from "@/server/version-history";
import { Select } from "../select/select";
import { VersionHistory } from "./version-history";

/** The versions of a chosen pipeline along time; which one stands in the address. */
export function HistoryOfChoice({
  chosen,
  pipelines,
  history,
}: {
  readonly chosen: string;
  readonly pipelines: readonly string[];
  readonly history: History;
}) {
  const [, setPipeline] = useQueryState("of", { shallow: false });
  return (
    <section aria-label="Versions over time" className="mb-5">
      <VersionHistory key={chosen} {...history}>
        <label className="flex items-center gap-2 text-caption text-faded">
          pipeline
          <Select
            label="Pipeline of versions"
            value={chosen}
            options={pipelines}
            onChange={(name) => void setPipeline(name)}
          />
        </label>
      </VersionHistory>
    </section>
  );
}
