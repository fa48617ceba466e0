import { useEffect, type RefObject } from "react";
import { CROSSING_WIDTH, LABEL_WIDTH, ROLE_WIDTH } from "./geometry";

/** Keeps the selected step in view, also when it was just added or moved. */
export function useSelectedInView(
  scroller: RefObject<HTMLElement | null>,
  selected: number,
  steps: number,
): void {
  useEffect(() => {
    const box = scroller.current;
    if (!box || selected < 0) return;
    const left = selected * CROSSING_WIDTH;
    const room = box.clientWidth - LABEL_WIDTH - ROLE_WIDTH;
    if (left < box.scrollLeft) box.scrollLeft = left;
    else if (left + CROSSING_WIDTH > box.scrollLeft + room) box.scrollLeft = left + CROSSING_WIDTH - room;
  }, [scroller, selected, steps]);
}
