"use client";
import { Check, Circle } from "lucide-react";
import { usePathname } from "next/navigation";
import type { Stage } from "@/server/stages";
import { PageLink } from "../basic/page-link";
import { useStageWords } from "./stage-words";

/** A pipeline's own line of stages; each shows by sign and words whether it is settled. */
export function Stages({
  pipeline,
  stages,
}: {
  readonly pipeline: string;
  readonly stages: readonly Stage[];
}) {
  const path = usePathname();
  const words = useStageWords(stages);
  return (
    <nav aria-label="Stages of the pipeline" className="flex items-stretch gap-0 overflow-x-auto">
      {stages.map((saved, index) => {
        const told = words?.pipeline === pipeline && words.stage === saved.name ? words : undefined;
        const stage = { ...saved, ...told };
        const href = `/pipelines/${encodeURIComponent(pipeline)}/${stage.name.toLowerCase()}`;
        const here = path === href;
        return (
          <PageLink
            key={stage.name}
            href={href}
            aria-current={here ? "page" : undefined}
            className={`relative flex flex-col px-4 py-1.5 no-underline ${here ? "bg-paper" : "hover:bg-weft"} ${index > 0 ? "border-l border-rule" : ""}`}
          >
            <span className={`flex items-center gap-1.5 ${here ? "font-semibold" : ""}`}>
              {stage.settled ? (
                <Check size={13} className="text-moss" aria-label="settled" />
              ) : (
                <Circle size={11} className="text-faded" aria-label="open" />
              )}
              {stage.name}
            </span>
            <span className="text-caption text-faded">{stage.says}</span>
          </PageLink>
        );
      })}
    </nav>
  );
}
