/** Times as people read them. All are shown in UTC, and say so. */

export function moment(value: Date | string | null | undefined): string {
  if (value === null || value === undefined) return "–";
  const date = typeof value === "string" ? new Date(value) : value;
  return `${date.toISOString().slice(0, 10)} ${date.toISOString().slice(11, 16)} UTC`;
}

/** How long ago something was, seen from a given moment. */
export function ago(value: Date, now: Date): string {
  const milliseconds = now.getTime() - value.getTime();
  if (milliseconds < -120_000) return `in ${coarse(-milliseconds)}`;
  return milliseconds < 45_000 ? "just now" : `${coarse(milliseconds)} ago`;
}

function coarse(milliseconds: number): string {
  const minutes = Math.round(milliseconds / 60_000);
  if (minutes < 90) return `${Math.max(1, minutes)} min`;
  const hours = Math.round(minutes / 60);
  return hours < 48 ? `${hours} h` : `${Math.round(hours / 24)} days`;
}
