import { describeProblem, ProblemError, type Problem } from "@/core/problem";
import type { Advice } from "./scan";

/** What goes wrong with an advice, and ways to follow it. */
export interface Situation {
  /** A part of the advice that is given. */
  readonly advice: string;
  readonly mistake: () => Promise<unknown>;
  readonly remedies: readonly (() => Promise<unknown>)[];
}

const hasProblems = (value: unknown): value is { readonly problems: readonly Problem[] } =>
  typeof value === "object" && value !== null && "problems" in value && Array.isArray(value.problems);

/** The problems that work ends with: those it throws, those it answers, and those of the run it gives. */
export async function problemsAfter(work: () => Promise<unknown>): Promise<readonly Problem[]> {
  try {
    const value = await work();
    return hasProblems(value) ? value.problems : [];
  } catch (error) {
    if (error instanceof ProblemError) return error.problems;
    throw error;
  }
}

/** Situations that are tried one after the other, and the advice that they were given. */
export class Situations {
  readonly given: string[] = [];

  /** Makes the mistake, expects the advice, and follows it in each way. */
  async follow({ advice, mistake, remedies }: Situation): Promise<void> {
    const problems = await problemsAfter(mistake);
    expect(problems.map(describeProblem).join("\n")).toContain(advice);
    // Lines of a log hold the advice after what they say.
    this.given.push(advice, ...problems.flatMap(({ hint }) => hint ?? []));
    expect(remedies.length).toBeGreaterThan(0);
    for (const remedy of remedies) expect((await problemsAfter(remedy)).map(describeProblem)).toEqual([]);
  }

  /** Advice of some sources that no situation was given. */
  untried(advice: readonly Advice[]): readonly string[] {
    return advice
      .filter(({ pattern }) => !this.given.some((hint) => pattern.test(hint)))
      .map(({ place, text }) => `${place} ${text}`);
  }
}
