import { placeAxis, type PlacedAxis } from "../charts/scale";

/** Widths of a thread in pixels: the most it takes, and what it has before its room is known. */
export const [WIDEST_THREAD, FIRST_WIDTH] = [900, 340];
const [EDGE, PIXELS_OF_TICK] = [6, 85];

/** The time axis of the threads. @param from with until: ends of the time, in milliseconds since 1970 @param width in pixels */
export function threadAxis(from: number, until: number, width: number): PlacedAxis {
  return placeAxis(
    { title: "Time", kind: "time", domain: [from, until] },
    [],
    [EDGE, width - EDGE],
    Math.round(width / PIXELS_OF_TICK),
  );
}
