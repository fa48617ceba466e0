import type { JudgedPage } from "@/runs/judging/judged-rows";

/** The most important columns first, the others behind them in their own order; an encoded category once, as it was before. */
export function shownColumns(page: JudgedPage | undefined, matters: readonly string[]): readonly string[] {
  const first = page?.rows[0];
  if (!first) return [];
  const encoded = Object.keys(first.originals).filter((name) => !(name in first.values));
  const shownAs = (name: string): string => encoded.find((source) => name.startsWith(`${source}=`)) ?? name;
  const ranks = new Map<string, number>();
  matters.forEach((name, rank) => {
    if (!ranks.has(shownAs(name))) ranks.set(shownAs(name), rank);
  });
  const rankOf = (name: string): number => ranks.get(name) ?? matters.length;
  return [...new Set(page.columns.map(shownAs))].sort((left, right) => rankOf(left) - rankOf(right));
}
