/** Numbers, sizes and times as people read them. All times are shown in UTC, and say so. */

export const count = (value: number | null | undefined): string =>
  value === null || value === undefined ? "–" : value.toLocaleString("en-US");

export function bytes(value: number): string {
  const units = ["B", "kB", "MB", "GB", "TB"];
  let size = value;
  let unit = 0;
  while (size >= 1000 && unit < units.length - 1) {
    size /= 1000;
    unit += 1;
  }
  return `${size >= 100 || unit === 0 ? size.toFixed(0) : size.toFixed(1)} ${units[unit]!}`;
}

export const share = (part: number, whole: number, digits = 1): string =>
  whole === 0 ? "–" : `${((100 * part) / whole).toFixed(digits)} %`;

/** A figure with as many digits as help. */
export function figure(value: number | null | undefined, digits = 4): string {
  if (value === null || value === undefined || Number.isNaN(value)) return "–";
  if (value === 0) return "0";
  const size = Math.abs(value);
  return size >= 1e6 || size < 1e-4
    ? value.toExponential(digits - 2)
    : value
        .toPrecision(digits)
        .replace(/(\.\d*?)0+$/, "$1")
        .replace(/\.$/, "");
}

export function moment(value: Date | string | null | undefined): string {
  if (value === null || value === undefined) return "–";
  const date = typeof value === "string" ? new Date(value) : value;
  return `${date.toISOString().slice(0, 10)} ${date.toISOString().slice(11, 16)} UTC`;
}

export function duration(milliseconds: number): string {
  if (milliseconds < 1000) return `${Math.round(milliseconds)} ms`;
  if (milliseconds < 60_000) return `${(milliseconds / 1000).toFixed(1)} s`;
  const minutes = Math.floor(milliseconds / 60_000);
  return minutes < 60
    ? `${minutes} min ${Math.round((milliseconds % 60_000) / 1000)} s`
    : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
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

/** A long run of decimals says nothing in a table. */
export function shortened<T extends string | null | undefined>(value: T): T | string {
  return typeof value === "string" && /^-?\d+\.\d{5,}(e.*)?$/.test(value) ? figure(Number(value), 5) : value;
}
