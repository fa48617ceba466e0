"use client";
import { usePathname } from "next/navigation";
import { startTransition, useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from "react";

/** Heights of parts as they were last seen, in CSS pixels by address: going back finds the place that was left. */
const heights = new Map<string, number>();

const subscribeToNothing = () => () => undefined;

/** Whether this is the page's first rendering in the browser, which must match what the server wrote. */
const useHydrating = (): boolean =>
  useSyncExternalStore(
    subscribeToNothing,
    () => false,
    () => true,
  );

/** Calls back once the browser has painted what is drawn now. Returns how to call it off. */
function afterPaint(call: () => void): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const frame = requestAnimationFrame(() => {
    timer = setTimeout(call);
  });
  return () => {
    cancelAnimationFrame(frame);
    clearTimeout(timer);
  };
}

/**
 * Parts of a page that begin below the window. After a click they are drawn once what is seen first has been painted;
 * a page that the server rendered has them from the start.
 */
export function AfterFirstPaint({ children }: { readonly children: ReactNode }) {
  const hydrating = useHydrating();
  const [drawn, setDrawn] = useState(hydrating);
  const address = usePathname();
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => (drawn ? undefined : afterPaint(() => startTransition(() => setDrawn(true)))), [drawn]);
  useEffect(() => {
    const part = box.current;
    if (!part) return undefined;
    const observer = new ResizeObserver(() => heights.set(address, part.offsetHeight));
    observer.observe(part);
    return () => observer.disconnect();
  }, [address, drawn]);
  if (drawn)
    return (
      <div ref={box} className="flow-root">
        {children}
      </div>
    );
  return <div aria-busy style={{ minHeight: heights.get(address) ?? "100vh" }} />;
}
