"use client";
import { TriangleAlert } from "lucide-react";
import type { Finding } from "@/core/evaluate/judgement";
import { startTrial } from "@/server/training-actions";
import { ActButton } from "../basic/act";

interface Props {
  readonly findings: readonly Finding[];
  readonly pipeline: string;
  readonly candidate: string;
  /** Features that the trial did without already. */
  readonly without: readonly string[];
  /** Whether rows were held out, which could have been too easy. */
  readonly held: boolean;
}

/** What the guard found. A feature at fault can be left out in a further trial, which is set beside this one. */
export function Findings({ findings, pipeline, candidate, without, held }: Props) {
  if (findings.length === 0)
    return (
      <p className="text-caption text-faded">
        The guard found no leakage: no feature is too strong alone or derived from the target
        {held ? ", and the holdout is as hard as the folds" : ""}.
      </p>
    );
  return (
    <ul className="divide-y divide-weft border-y border-weft" data-testid="findings">
      {findings.map((finding, index) => (
        <li key={index} className="flex items-start gap-3 py-2">
          <TriangleAlert size={16} className="mt-0.5 shrink-0 text-madder" aria-label="Warning" />
          <div className="min-w-0 flex-1">
            <p>{finding.message}</p>
            {finding.hint && <p className="text-caption text-faded">{finding.hint}</p>}
          </div>
          {finding.feature !== undefined && (
            <ActButton
              act={() => startTrial({ pipeline, candidate, without: [...without, finding.feature!] })}
              goTo={(id) => `/runs/${String(id)}`}
            >
              Train without it
            </ActButton>
          )}
        </li>
      ))}
    </ul>
  );
}
