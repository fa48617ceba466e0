import { availableParallelism } from "node:os";

/** What came of asking for one address many times at once. */
export interface Crowd {
  readonly address: string;
  readonly requests: number;
  /** Answers of 400 and above, and requests without an answer. */
  readonly failed: number;
  /** Seconds that one takes alone, and the slowest of all at once. */
  readonly alone: number;
  readonly slowest: number;
  /** The most that the slowest may take: three times its share of the processors. */
  readonly most: number;
}

const ALONE = 7;

/** Asks once and reads the whole answer. @returns seconds, and whether it was a good answer */
async function ask(url: string): Promise<{ readonly seconds: number; readonly good: boolean }> {
  const begun = performance.now();
  try {
    const response = await fetch(url);
    await response.arrayBuffer();
    return { seconds: (performance.now() - begun) / 1000, good: response.status < 400 };
  } catch {
    return { seconds: (performance.now() - begun) / 1000, good: false };
  }
}

/** Asks for an address many times at once, and holds the slowest answer against what one takes alone. */
export async function askTogether(base: string, address: string, requests: number): Promise<Crowd> {
  const url = `${base}${address}`;
  await ask(url);
  const single: number[] = [];
  for (let time = 0; time < ALONE; time += 1) single.push((await ask(url)).seconds);
  const alone = single.sort((left, right) => left - right)[Math.floor(ALONE / 2)]!;
  const answers = await Promise.all(Array.from({ length: requests }, () => ask(url)));
  return {
    address,
    requests,
    failed: answers.filter((answer) => !answer.good).length,
    alone,
    slowest: Math.max(...answers.map((answer) => answer.seconds)),
    most: ((3 * requests) / availableParallelism()) * alone,
  };
}
