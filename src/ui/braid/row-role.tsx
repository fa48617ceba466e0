import { memo } from "react";
import type { BraidRow } from "./geometry";

const ROLE_TONE: Readonly<Record<string, string>> = {
  target: "text-madder font-semibold",
  key: "text-weld font-medium",
  feature: "text-ink",
  excluded: "text-faded italic",
};

/** The role of a column in the model, at the end of its thread. */
export const RowRole = memo(function RowRole({ row }: { readonly row: BraidRow }) {
  if (row.kind !== "thread") return null;
  const { role, because } = row.thread;
  return (
    <span
      className={`block truncate border-l border-weft px-2 text-caption leading-[22px] ${ROLE_TONE[role ?? ""] ?? "text-faded"}`}
      title={because}
    >
      {role}
    </span>
  );
});
