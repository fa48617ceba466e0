"use client";
import { useMemo } from "react";
import type { Points } from "@/runs/draft/columns";
import { useAnswer } from "../../draft/use-answer";
import { regionsOf, type Region } from "../../regions/region";
import { RegionDrawing } from "../../regions/region-drawing";
import { useForm } from "./form-context";

/** The regions of a step, drawn over two of the columns before it. */
export function Regions({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}) {
  const { place, settings, columns } = useForm();
  const known = (name: unknown): string | undefined =>
    typeof name === "string" && columns.some((column) => column.name === name) ? name : undefined;
  const x = known(settings["x"]);
  const y = known(settings["y"]);
  const colour = known(settings["colour"]);
  const { value: found, failure } = useAnswer<Points>(
    "points",
    x === undefined || y === undefined
      ? undefined
      : ({ ...place, x, y, ...(colour === undefined ? {} : { colour }) } as never),
  );
  const regions = useMemo(() => regionsOf(value), [value]);
  if (x === undefined || y === undefined)
    return <p className="text-faded">Choose the columns for x and y to draw their points.</p>;
  const put = (next: readonly Region[]): void =>
    onChange(
      next.length === 0
        ? undefined
        : next.map((region) => ({
            label: region.label,
            points: region.points.map((corner) => [...corner]),
          })),
    );
  return (
    <RegionDrawing
      label={label}
      axes={{ x, y, colour }}
      regions={regions}
      onChange={put}
      found={found}
      failure={failure}
    />
  );
}
