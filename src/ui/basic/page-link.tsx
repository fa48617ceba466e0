"use client";
import Link, { useLinkStatus } from "next/link";
import type { ComponentProps } from "react";
import { useReadAhead } from "./read-ahead";

type Props = Omit<ComponentProps<typeof Link>, "href" | "prefetch"> & { readonly href: string };

/**
 * A link to a page of the application. The page is read once somebody points at the link: reading the pages of all links in sight,
 * anew after every refresh, keeps server and browser busy with pages that nobody opens.
 */
export function PageLink({
  href,
  onMouseEnter,
  onMouseLeave,
  onFocus,
  onBlur,
  onClick,
  children,
  ...rest
}: Props) {
  const ahead = useReadAhead(href);
  return (
    <Link
      {...rest}
      href={href}
      prefetch={ahead.wanted}
      onMouseEnter={(event) => {
        ahead.begin();
        onMouseEnter?.(event);
      }}
      onMouseLeave={(event) => {
        ahead.end();
        onMouseLeave?.(event);
      }}
      onFocus={(event) => {
        ahead.begin();
        onFocus?.(event);
      }}
      onBlur={(event) => {
        ahead.end();
        onBlur?.(event);
      }}
      onClick={(event) => {
        ahead.stop();
        onClick?.(event);
      }}
    >
      {children}
      <Opening />
    </Link>
  );
}

/** A line at the top of the window from the click on, until the page is there. */
function Opening() {
  const { pending } = useLinkStatus();
  return pending ? <span className="opening" aria-hidden /> : null;
}
