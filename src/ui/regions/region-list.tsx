"use client";
import { Plus } from "lucide-react";
import { useState } from "react";
import { TypedText } from "../basic/typed-text";
import { readCorners, writeCorners, type Region } from "./region";

const FEWER = "Three corners or more, as “x, y; x, y; x, y”.";

/** The regions by name and corners: all that can be drawn can be typed too. */
export function RegionList({
  regions,
  onChange,
  onAdd,
}: {
  readonly regions: readonly Region[];
  readonly onChange: (regions: readonly Region[]) => void;
  readonly onAdd: () => void;
}) {
  const put = (place: number, region: Region | undefined): void =>
    onChange(regions.flatMap((known, index) => (index === place ? (region ?? []) : known)));
  return (
    <div className="space-y-1.5">
      {regions.map((region, index) => (
        <div key={index} className="flex flex-wrap items-start gap-2">
          <div className="w-28">
            <TypedText
              label={`Region ${index + 1}`}
              value={region.label}
              onChange={(label) => {
                if (label !== "") put(index, { ...region, label });
              }}
            />
          </div>
          <CornersField
            label={`Corners of region ${index + 1}`}
            region={region}
            onChange={(points) => put(index, { ...region, points })}
          />
          <button type="button" className="press press-quiet px-1" onClick={() => put(index, undefined)}>
            Remove
          </button>
        </div>
      ))}
      <button type="button" className="press press-quiet px-1 py-0.5" onClick={onAdd}>
        <Plus size={13} aria-hidden />
        region by its corners
      </button>
    </div>
  );
}

function CornersField({
  label,
  region,
  onChange,
}: {
  readonly label: string;
  readonly region: Region;
  readonly onChange: (points: Region["points"]) => void;
}) {
  const [wrong, setWrong] = useState(false);
  return (
    <div className="min-w-48 flex-1">
      <TypedText
        label={label}
        value={writeCorners(region.points)}
        onChange={(text) => {
          const points = readCorners(text);
          setWrong(points === undefined);
          if (points) onChange(points);
        }}
      />
      {wrong && (
        <p role="alert" className="text-caption text-madder">
          {FEWER}
        </p>
      )}
    </div>
  );
}
