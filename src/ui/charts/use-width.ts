"use client";
import { useEffect, useRef, useState, type RefObject } from "react";

/**
 * The width that an element has at most.
 * @param most pixels that are enough
 * @param first what is taken before the element is there
 * @returns a reference for the element, and its width
 */
export function useWidth<T extends HTMLElement>(
  most: number,
  first = most,
): readonly [RefObject<T | null>, number] {
  const element = useRef<T>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const measured = element.current;
    if (!measured) return;
    const observer = new ResizeObserver(() => setWidth(Math.min(most, measured.clientWidth || most)));
    observer.observe(measured);
    return () => observer.disconnect();
  }, [most]);
  return [element, width];
}
