"use client";
import { useEffect, useRef, type ReactNode } from "react";
import { PageLink } from "../basic/page-link";

/** The way to what a training came to; when it ends, it is what the person who began it goes on with. */
export function ResultLink({
  href,
  live,
  children,
}: {
  readonly href: string;
  readonly live: boolean;
  readonly children: ReactNode;
}) {
  const link = useRef<HTMLAnchorElement>(null);
  const before = useRef(live);
  useEffect(() => {
    const ended = before.current && !live;
    before.current = live;
    const focused = document.activeElement;
    if (ended && (focused === document.body || focused?.closest("[data-trains]"))) link.current?.focus();
  }, [live]);
  return (
    <PageLink ref={link} className="text-caption font-normal" href={href}>
      {children}
    </PageLink>
  );
}
