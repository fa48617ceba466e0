import { fitCandidate } from "@/core/learn/fit";
import type { Model } from "@/core/learn/model";
import type { FrameQuestions } from "@/core/learn/questions";
import type { OnPass } from "@/core/learn/watch";
import type { FrameShape } from "@/core/plan/frame";
import type { Candidate } from "@/core/pipeline/schema";
import { unwrap, type Problem } from "@/core/problem";
import type { Workshop } from "./workshop";

export interface FitResult {
  readonly model: Model;
  readonly warnings: readonly Problem[];
  readonly seconds: number;
  /** Most memory this process held meanwhile, in bytes. */
  readonly memory: number;
}

/** Fits a candidate, measuring time and memory. */
export async function fitAndMeasure(
  shop: Workshop,
  ask: FrameQuestions,
  candidate: Candidate,
  shape: FrameShape,
  onPass: OnPass | undefined,
): Promise<FitResult> {
  const started = performance.now();
  let memory = process.memoryUsage().rss;
  const watched = async (): Promise<void> => {
    memory = Math.max(memory, process.memoryUsage().rss);
    await shop.recorder.breathe();
  };
  const fitted = unwrap(
    await fitCandidate(ask, candidate, {
      categories: shape.categories,
      texts: shape.texts,
      breathe: watched,
      onPass: async (pass) => {
        await onPass?.(pass);
        await watched();
      },
    }),
  );
  return {
    ...fitted,
    seconds: (performance.now() - started) / 1000,
    memory: Math.max(memory, process.memoryUsage().rss),
  };
}
