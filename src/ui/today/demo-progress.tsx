"use client";
import { useEffect } from "react";
import type { DemoSetup } from "@/store/settings";
import { PageLink } from "../basic/page-link";
import { usePageRefresh } from "../basic/page-refresh";
import { WishDemo } from "./wish-demo";

const LOOK_MILLISECONDS = 2500;

/** How far the demo is set up: its tables, then its pipelines, one after the other. */
export function DemoProgress({
  setup,
  pipelines,
}: {
  readonly setup: DemoSetup;
  /** The demo's pipelines, and whether each has a version that was judged. */
  readonly pipelines: readonly { readonly name: string; readonly trained: boolean }[];
}) {
  const refresh = usePageRefresh();
  const { stage } = setup;
  const goesOn = stage === "wished" || stage === "tables" || stage === "training";
  useEffect(() => {
    if (!goesOn) return undefined;
    const timer = setInterval(refresh, LOOK_MILLISECONDS);
    return () => clearInterval(timer);
  }, [goesOn, refresh]);
  if (stage === "failed")
    return (
      <div role="alert" className="mb-6 border-y border-madder py-3">
        <p className="mb-2 text-madder">The demo could not be set up. {setup.problem}</p>
        <WishDemo />
      </div>
    );
  if (!goesOn) return null;
  const trained = pipelines.filter((pipeline) => pipeline.trained).length;
  return (
    <section aria-label="Demo" className="mb-6 border-y border-rule py-3">
      <p role="status">
        <b>The demo is being set up.</b>{" "}
        {stage === "training"
          ? `${trained} of ${pipelines.length} pipelines have an evaluated version; the others are being trained.`
          : "Its tables are being created, which takes about a minute."}{" "}
        You can look around in the meantime.
      </p>
      {stage === "training" && (
        <>
          <progress aria-label="Pipelines" className="my-2 h-2 w-72" max={pipelines.length} value={trained} />
          <ul className="flex flex-wrap gap-x-6 text-caption">
            {pipelines.map((pipeline) => (
              <li key={pipeline.name}>
                <PageLink href={`/pipelines/${encodeURIComponent(pipeline.name)}/train`}>
                  {pipeline.name}
                </PageLink>{" "}
                <span className="text-faded">{pipeline.trained ? "trained" : "to come"}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
