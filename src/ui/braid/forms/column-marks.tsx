import type { ReactNode } from "react";
import type { Braid } from "@/core/plan/braid";
import { ColumnShape } from "../../tables/column-shape";
import type { ProfileOf } from "../../tables/use-column-profiles";
import type { ColumnHere } from "../places";

/** The distributions of columns whose values no step has changed, by name, where their table has a profile. */
export function marksOf(
  columns: readonly ColumnHere[],
  { groups }: Braid,
  profileOf: ProfileOf,
): ReadonlyMap<string, ReactNode> {
  const threads = new Map(
    groups.flatMap(({ from, threads: own }) => own.map((thread) => [thread.id, { from, thread }] as const)),
  );
  return new Map(
    columns.flatMap(({ name, thread: id }): [string, ReactNode][] => {
      const found = threads.get(id);
      if (!found || found.thread.marks.some(({ kind }) => kind === "writes" || kind === "learns")) return [];
      const profile = profileOf(found.from, found.thread.name);
      return profile ? [[name, <ColumnShape key={name} profile={profile} />]] : [];
    }),
  );
}
