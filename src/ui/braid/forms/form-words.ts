import type { Problem } from "@/core/problem";

const MISSING = /^"[^"]*" is missing\.$/;
/** The setting's own name before what is wrong with it. */
const NAMED = /^"[^"]*":? /;

/**
 * A problem of a setting in the words of its form: the field says which setting it is, and there is no
 * file to look at.
 */
export function inFormWords({ message, hint }: Problem): string {
  const advice = hint === undefined || hint.includes("docs/") ? "" : ` ${hint}`;
  if (MISSING.test(message)) return `Required.${advice}`;
  const bare = message.replace(NAMED, "");
  return `${bare.charAt(0).toUpperCase()}${bare.slice(1)}${advice}`;
}
