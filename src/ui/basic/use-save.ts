"use client";
import { useRouter } from "next/navigation";
import { toast } from "sonner";
import type { Outcome } from "@/server/answer/action";
import { usePageRefresh } from "./page-refresh";
import { tellProblems } from "./tell-problems";
import { useAction } from "./use-action";

/**
 * Sends what a form holds, and says how it went.
 *
 * @param act makes the change on the server
 * @param after what is said when it worked, or where to go then, given what the change made
 */
export function useSave<Values, Made>(
  act: (values: Values) => Promise<Outcome<Made>>,
  after: { readonly done?: string; readonly goTo?: (made: Made) => string },
): readonly [busy: boolean, save: (values: Values) => Promise<boolean>] {
  const router = useRouter();
  const refresh = usePageRefresh();
  const [busy, ask] = useAction();
  const save = async (values: Values): Promise<boolean> => {
    const outcome = await ask(() => act(values));
    if (!outcome.ok) {
      tellProblems(outcome.problems);
      return false;
    }
    if (after.done) toast.success(after.done);
    if (after.goTo) router.push(after.goTo(outcome.value));
    else refresh();
    return true;
  };
  return [busy, save];
}
