import { formatNumber, formatShare } from "@/core/format/numbers";
import { scaleLinear, scaleLog, scaleUtc } from "d3-scale";

/** What an axis shows, in a form that a server component can pass on. */
export interface AxisSpec {
  readonly title: string;
  readonly unit?: string | undefined;
  /** log: a logarithmic scale. time: values are milliseconds since 1970, shown in UTC. */
  readonly kind?: "linear" | "log" | "time";
  readonly domain?: readonly [number, number] | undefined;
  /** Names in place of numbers: a value is the place of a name in the list. */
  readonly names?: readonly string[];
  /** share: values from 0 to 1, written in percent. */
  readonly format?: "number" | "share";
  /** Whether it counts something, so that only whole numbers are marked. */
  readonly whole?: boolean;
  /** Whether the domain stays as given instead of ending at round values. */
  readonly exact?: boolean;
}

export interface Tick {
  readonly value: number;
  /** In pixels. */
  readonly at: number;
  readonly label: string;
}

export interface PlacedAxis {
  readonly title: string;
  readonly ticks: readonly Tick[];
  /** From where to where the axis runs, in pixels. */
  readonly range: readonly [number, number];
  /** The pixel of a value; values outside of the domain lie on its border. */
  readonly place: (value: number) => number;
  /** The value of a pixel. */
  readonly valueAt: (pixel: number) => number;
  /** A value as people read it. */
  readonly describe: (value: number) => string;
}

const FALLBACK: readonly [number, number] = [0, 1];
const SMALLEST_LOG = 1e-17;

/** How far the domain reaches on both sides of a value that is the only one. */
function marginAround(value: number, format: AxisSpec["format"], whole = false): number {
  if (format === "share") return 0.05;
  return whole || value === 0 ? 1 : Math.abs(value) * 0.1;
}

/** Smallest and largest value, widened where they are equal. */
function domainOf(
  values: readonly number[],
  { domain, kind, format, whole }: AxisSpec,
): readonly [number, number] {
  if (domain && domain[1] > domain[0]) return domain;
  const finite = (domain ?? values).filter(
    (value) => Number.isFinite(value) && (kind !== "log" || value > 0),
  );
  if (finite.length === 0) return kind === "log" ? [1e-3, 1] : FALLBACK;
  const low = finite.reduce((least, value) => Math.min(least, value), Infinity);
  const high = finite.reduce((most, value) => Math.max(most, value), -Infinity);
  if (high > low) return [low, high];
  if (kind === "log") return [low, low * 10];
  const margin = marginAround(low, format, whole);
  return [low - margin, low + margin];
}

const titleOf = ({ title, unit }: AxisSpec): string => (unit ? `${title}, ${unit}` : title);

/** An axis on which names stand side by side. */
function placeNames(title: string, names: readonly string[], range: readonly [number, number]): PlacedAxis {
  const scale = scaleLinear([-0.5, names.length - 0.5], [range[0], range[1]]).clamp(true);
  return {
    title,
    range,
    ticks: names.map((label, value) => ({ value, at: scale(value), label })),
    place: (value) => scale(value),
    valueAt: (pixel) => scale.invert(pixel),
    describe: (value) => names[Math.round(value)] ?? "",
  };
}

/**
 * @param spec what the axis shows
 * @param values all values to be placed on it; they give the domain where the spec does not
 * @param range pixels of the lower and the upper end
 * @param count about how many ticks
 * @returns the axis, with ticks at round values
 */
export function placeAxis(
  spec: AxisSpec,
  values: readonly number[],
  range: readonly [number, number],
  count: number,
): PlacedAxis {
  const title = titleOf(spec);
  if (spec.names) return placeNames(title, spec.names, range);
  const [low, high] = domainOf(values, spec);
  const ends: [number, number] = [range[0], range[1]];
  if (spec.kind === "time") {
    const scale = scaleUtc([new Date(low), new Date(high)], ends).clamp(true);
    const label = scale.tickFormat(count, "%-d %b");
    return {
      title,
      range,
      ticks: scale
        .ticks(count)
        .map((tick) => ({ value: tick.getTime(), at: scale(tick), label: label(tick) })),
      place: (value) => scale(new Date(value)),
      valueAt: (pixel) => scale.invert(pixel).getTime(),
      describe: (value) => new Date(value).toISOString().slice(0, 10),
    };
  }
  const describe = spec.format === "share" ? formatShare : formatNumber;
  const bare =
    spec.kind === "log"
      ? scaleLog([Math.max(low, SMALLEST_LOG), high], ends)
      : scaleLinear([low, high], ends);
  const scale = (spec.exact || spec.domain ? bare : bare.nice(count)).clamp(true);
  const isMarked = (tick: number): boolean =>
    spec.kind === "log"
      ? Math.abs(Math.log10(tick) - Math.round(Math.log10(tick))) < 1e-9
      : !spec.whole || Number.isInteger(tick);
  return {
    title,
    range,
    ticks: scale
      .ticks(count)
      .filter(isMarked)
      .map((tick) => ({ value: tick, at: scale(tick), label: describe(tick) })),
    place: (value) => scale(value),
    valueAt: (pixel) => scale.invert(pixel),
    describe,
  };
}
