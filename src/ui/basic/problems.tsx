import { OctagonAlert, TriangleAlert } from "lucide-react";
import type { Problem } from "@/core/problem";

/** Problems as a list: what happened, where, what to do. */
export function Problems({
  problems,
  onPick,
  lines = true,
}: {
  readonly problems: readonly Problem[];
  /** Whether lines of the file are named; not where the file is not seen. */
  readonly lines?: boolean;
  readonly onPick?: (found: Problem) => void;
}) {
  if (problems.length === 0) return null;
  return (
    <ul className="space-y-1.5">
      {problems.map((each, index) => {
        const Icon = each.severity === "error" ? OctagonAlert : TriangleAlert;
        const place = lines && each.location?.line ? `Line ${each.location.line}. ` : "";
        return (
          <li key={index} className="flex gap-2">
            <Icon
              size={15}
              aria-label={each.severity}
              className={`mt-0.5 shrink-0 ${each.severity === "error" ? "text-madder" : "text-weld"}`}
            />
            <span className="min-w-0 break-words">
              {place &&
                (onPick ? (
                  <button type="button" className="mr-1 underline" onClick={() => onPick(each)}>
                    {place.trim()}
                  </button>
                ) : (
                  <span className="text-faded">{place}</span>
                ))}
              {each.message} {each.hint && <span className="text-faded">{each.hint}</span>}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
