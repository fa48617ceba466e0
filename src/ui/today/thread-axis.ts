import { placeAxis, type PlacedAxis } from "../charts/scale";

/** Of a thread, in pixels. */
export const THREAD_WIDTH = 340;
const EDGE = 6;

/** The time axis of the threads. @param from with until: ends of the time, in milliseconds since 1970 */
export function threadAxis(from: number, until: number): PlacedAxis {
  return placeAxis(
    { title: "Time", kind: "time", domain: [from, until] },
    [],
    [EDGE, THREAD_WIDTH - EDGE],
    4,
  );
}
