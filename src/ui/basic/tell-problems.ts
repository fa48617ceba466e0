import { toast } from "sonner";
import type { Problem } from "@/core/problem";

/** Problems that are told one by one: more would cover the page. */
const MOST_TOLD = 4;

/** Tells of problems with a change that was not made, and how many more there are. */
export function tellProblems(problems: readonly Pick<Problem, "message" | "hint">[]): void {
  for (const { message, hint } of problems.slice(0, MOST_TOLD)) toast.error(message, { description: hint });
  const left = problems.length - MOST_TOLD;
  if (left > 0) toast.error(`${left} more problem${left === 1 ? "" : "s"}.`);
}
