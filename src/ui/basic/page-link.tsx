"use client";
import Link, { useLinkStatus } from "next/link";
import { useRouter } from "next/navigation";
import type { ComponentProps } from "react";

type Props = Omit<ComponentProps<typeof Link>, "href" | "prefetch"> & { readonly href: string };

/**
 * A link to a page of the application. The page is asked for when somebody points at the link: reading the pages of all links in
 * sight, anew after every refresh, keeps server and browser busy with pages that nobody opens.
 */
export function PageLink({ href, onMouseEnter, onFocus, children, ...rest }: Props) {
  const router = useRouter();
  return (
    <Link
      {...rest}
      href={href}
      prefetch={false}
      onMouseEnter={(event) => {
        router.prefetch(href);
        onMouseEnter?.(event);
      }}
      onFocus={(event) => {
        router.prefetch(href);
        onFocus?.(event);
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
