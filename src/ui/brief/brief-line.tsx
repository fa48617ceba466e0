import type { ReactNode } from "react";

/** A line of the brief: what it says, and beside it the sentence. */
export function BriefLine({ label, children }: { readonly label: string; readonly children: ReactNode }) {
  return (
    <div className="grid grid-cols-[150px_1fr] items-start gap-4">
      <span className="pt-0.5 text-right font-sans text-caption text-faded">{label}</span>
      <div>{children}</div>
    </div>
  );
}
