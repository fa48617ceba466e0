import type { ReactNode } from "react";

/** What an empty screen says: what would be here, and what to do first. */
export function Empty({ title, children }: { readonly title: string; readonly children?: ReactNode }) {
  return (
    <div className="border-y border-rule py-10 text-center">
      <p className="font-medium">{title}</p>
      {children && <div className="mx-auto mt-1 max-w-xl text-faded">{children}</div>}
    </div>
  );
}
