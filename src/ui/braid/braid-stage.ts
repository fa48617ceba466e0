import { formatCount } from "@/core/format/numbers";
import type { DraftDesk } from "../draft/draft-context";

/** What the line of stages says of a Braid: its steps, or its errors, and whether they are saved. */
export function braidStage(
  { braid, problems, draft }: Pick<DraftDesk, "braid" | "problems" | "draft">,
  savedText: string,
): { readonly says: string; readonly settled: boolean } {
  const errors = problems.filter(({ severity }) => severity === "error").length;
  const counted =
    errors > 0 ? formatCount(errors, "error") : formatCount(braid?.crossings.length ?? 0, "step");
  return { says: `${counted}${draft.text === savedText ? "" : ", not saved"}`, settled: errors === 0 };
}
