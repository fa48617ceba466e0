"use client";
import { useCallback, useEffect, useState } from "react";

/**
 * Whether the drawing is awaited in which a step that was just made can be seen. Until then its place is
 * another step's in the old
 * drawing, whose form must not be taken for that of the new one.
 * @param reading whether the text is newer than the drawing
 */
export function useAwaited(reading: boolean): { readonly awaited: () => void; readonly isAwaiting: boolean } {
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (asked && !reading) setAsked(false);
  }, [asked, reading]);
  return { awaited: useCallback(() => setAsked(true), []), isAwaiting: asked && reading };
}
