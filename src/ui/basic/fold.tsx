"use client";
import { useState, type ReactNode } from "react";

interface Props {
  readonly summary: ReactNode;
  readonly className?: string;
  readonly summaryClassName?: string;
  readonly children: ReactNode;
}

/** A part of a page that is closed at first. What is in it is drawn from its first opening on, so that nobody waits for it. */
export function Fold({ summary, className, summaryClassName = "", children }: Props) {
  const [opened, setOpened] = useState(false);
  return (
    <details
      className={className}
      onToggle={(event) => {
        if (event.currentTarget.open) setOpened(true);
      }}
    >
      <summary className={`cursor-pointer ${summaryClassName}`}>{summary}</summary>
      {opened && children}
    </details>
  );
}
