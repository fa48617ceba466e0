import type { ReactNode } from "react";

/** What depends on something that is about to change, while that is looked up and once it is known. */
export function WhatDepends({
  asking,
  failure,
  testId,
  children,
}: {
  readonly asking: boolean;
  /** Why it could not be looked up. */
  readonly failure: string | undefined;
  readonly testId: string;
  readonly children: ReactNode;
}) {
  return (
    <div className="my-3 min-h-24 border-y border-rule py-3 text-caption" data-testid={testId}>
      {asking && (
        <p className="text-faded" role="status">
          checking what depends on it …
        </p>
      )}
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {children}
    </div>
  );
}
