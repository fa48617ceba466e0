import { OctagonAlert, TriangleAlert } from "lucide-react";
import type { Problem } from "@/core/problem";

/** Where a problem is, before its words. */
function placeOf({ location }: Problem, lines: boolean): string {
  if (lines) return location?.line ? `Line ${location.line}. ` : "";
  return location?.step ? `In “${location.step}”: ` : "";
}

/** Problems as a list: what happened, where, what to do. */
export function Problems({
  problems,
  onPick,
  lines = false,
}: {
  readonly problems: readonly Problem[];
  /** Whether lines of the file are named: only where that file is seen. Elsewhere steps are. */
  readonly lines?: boolean;
  readonly onPick?: (found: Problem) => void;
}) {
  if (problems.length === 0) return null;
  return (
    <ul className="space-y-1.5">
      {problems.map((problem, index) => {
        const Icon = problem.severity === "error" ? OctagonAlert : TriangleAlert;
        const place = placeOf(problem, lines);
        return (
          <li key={index} className="flex gap-2">
            <Icon
              size={15}
              aria-label={problem.severity}
              className={`mt-0.5 shrink-0 ${problem.severity === "error" ? "text-madder" : "text-weld"}`}
            />
            <span className="min-w-0 break-words">
              {place &&
                (onPick ? (
                  <button type="button" className="mr-1 underline" onClick={() => onPick(problem)}>
                    {place.trim()}
                  </button>
                ) : (
                  <span className="text-faded">{place}</span>
                ))}
              {problem.message} {problem.hint && <span className="text-faded">{problem.hint}</span>}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
