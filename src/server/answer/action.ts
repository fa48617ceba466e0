import { revalidatePath } from "next/cache";
import { z } from "zod";
import type { Problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { readInput } from "./read-input";

/** What a change gives back: where to go or what it made, or what is in the way. */
export type Outcome<T = undefined> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problems: readonly Problem[] };

export const refuse = (
  ...problems: readonly Problem[]
): { readonly ok: false; readonly problems: readonly Problem[] } => ({ ok: false, problems });

/** The arguments that an action takes, one schema for each. */
type Inputs = readonly [] | readonly [z.ZodType, ...z.ZodType[]];
type Given<All extends Inputs> = { -readonly [Index in keyof All]: z.input<All[Index]> };
type Read<All extends Inputs> = { -readonly [Index in keyof All]: z.output<All[Index]> };

/**
 * The one way in for changes that a page asks for: what came is read by schemas, whatever is thrown becomes problems that the page
 * shows, and pages are drawn anew when something has changed.
 * @param inputs a schema for each argument
 * @param redraw whether pages show what this changes
 */
export function action<All extends Inputs, T>(
  inputs: All,
  work: (...given: Read<All>) => Promise<Outcome<T>>,
  redraw = true,
): (...given: Given<All>) => Promise<Outcome<T>> {
  const schema = z.tuple(inputs as unknown as [z.ZodType, ...z.ZodType[]]);
  return async (...given) => {
    const all: unknown[] = [...given];
    // An argument that was left out is one all the same.
    while (all.length < inputs.length) all.push(undefined);
    const read = readInput(schema, all);
    if (!read.ok) return read;
    try {
      const outcome = await work(...(read.value as unknown as Read<All>));
      if (outcome.ok && redraw) revalidatePath("/", "layout");
      return outcome;
    } catch (error) {
      return { ok: false, problems: problemsOf(error) };
    }
  };
}
