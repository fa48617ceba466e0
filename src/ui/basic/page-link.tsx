"use client";
import Link from "next/link";
import { useRouter } from "next/navigation";
import type { ComponentProps } from "react";

type Props = Omit<ComponentProps<typeof Link>, "href" | "prefetch"> & { readonly href: string };

/**
 * A link to a page of the application. The page is asked for when somebody points at the link: reading the pages of all links in
 * sight, anew after every refresh, keeps server and browser busy with pages that nobody opens.
 */
export function PageLink({ href, onMouseEnter, onFocus, ...rest }: Props) {
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
    />
  );
}
