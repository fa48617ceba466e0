"use client";
import { usePathname, useRouter } from "next/navigation";
import { useEffect, useRef, useState, useTransition } from "react";

/** After so long a page that does not come is loaded as a whole. */
const PATIENCE_MILLISECONDS = 5000;

/**
 * Two of a page's things that are picked, kept in its address. The page is asked for one pair after the other: of two requests that follow
 * each other closely on a slow computer the browser may show neither.
 * @param shown what the page that is there shows
 */
export function usePicked(
  name: string,
  shown: readonly number[],
): readonly [picked: readonly number[], pick: (id: number) => void] {
  const router = useRouter();
  const path = usePathname();
  const [picked, setPicked] = useState(shown);
  const [asking, startAsking] = useTransition();
  const asked = useRef(shown.join());
  const [wanted, there] = [picked.join(), shown.join()];
  // Going back in the browser shows another pair than was asked for last.
  useEffect(() => {
    if (there === asked.current) return;
    asked.current = there;
    setPicked(there === "" ? [] : there.split(",").map(Number));
  }, [there]);
  useEffect(() => {
    if (asking || wanted === there) return undefined;
    asked.current = wanted;
    const address = `${path}${withPick(name, wanted)}`;
    startAsking(() => router.replace(address, { scroll: false }));
    return undefined;
  }, [asking, wanted, there, name, path, router]);
  useEffect(() => {
    if (wanted === there) return undefined;
    const load = (): void => window.location.replace(`${path}${withPick(name, wanted)}`);
    const timer = setTimeout(load, PATIENCE_MILLISECONDS);
    return () => clearTimeout(timer);
  }, [wanted, there, name, path]);
  const pick = (id: number): void =>
    setPicked((now) => (now.includes(id) ? now.filter((other) => other !== id) : [...now.slice(-1), id]));
  return [picked, pick];
}

/** The query of the page that is open, with another pick. */
function withPick(name: string, picked: string): string {
  const query = new URLSearchParams(window.location.search);
  if (picked === "") query.delete(name);
  else query.set(name, picked);
  const text = query.toString().replaceAll("%2C", ",");
  return text === "" ? "" : `?${text}`;
}
