import { revalidatePath } from "next/cache";
import type { Problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";

/** What a change gives back: where to go or what it made, or what is in the way. */
export type Outcome<T = undefined> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problems: readonly Problem[] };

/** Runs a change; whatever is thrown becomes problems that the page shows. */
export async function attempt<T>(work: () => Promise<Outcome<T>>): Promise<Outcome<T>> {
  try {
    const outcome = await work();
    if (outcome.ok) revalidatePath("/", "layout");
    return outcome;
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}
