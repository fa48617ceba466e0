"use client";
import { formatNumber, formatShare } from "@/core/format/numbers";
import { useState } from "react";
import {
  bestF1,
  cheapestThreshold,
  costOf,
  ratesOf,
  withinCapacity,
  withRecall,
  type Confusion,
} from "@/core/evaluate/threshold";

interface Props {
  readonly all: readonly Confusion[];
  readonly now: Confusion;
  readonly onThreshold: (threshold: number) => void;
}

/** Ways to a threshold: by what mistakes cost, by F1, by how many rows can be dealt with, by how many positives must be found. */
export function ThresholdRules({ all, now, onThreshold }: Props) {
  const [miss, setMiss] = useState(5);
  const [falseAlarm, setFalseAlarm] = useState(1);
  const [capacity, setCapacity] = useState(200);
  const [rows, setRows] = useState(1000);
  const [recall, setRecall] = useState(80);
  const cheapest = cheapestThreshold(all, miss, falseAlarm);
  const f1 = bestF1(all);
  const able = withinCapacity(all, capacity / Math.max(1, rows));
  const found = withRecall(all, recall / 100);
  return (
    <div className="mt-3 border-t border-weft pt-2 text-caption" aria-label="Choose a threshold">
      <p className="flex flex-wrap items-center gap-x-2 gap-y-1">
        A miss costs <Amount label="A miss costs" value={miss} onValue={setMiss} /> a false alarm{" "}
        <Amount label="A false alarm costs" value={falseAlarm} onValue={setFalseAlarm} /> cost now{" "}
        <span className="figure font-semibold" data-testid="cost">
          {formatNumber(costOf(now, miss, falseAlarm))}
        </span>
        {cheapest && (
          <Choice
            at={cheapest}
            says={`least ${formatNumber(costOf(cheapest, miss, falseAlarm))} at`}
            onThreshold={onThreshold}
          />
        )}
      </p>
      <p className="mt-1.5 flex flex-wrap items-center gap-x-2 gap-y-1">
        Capacity <Amount label="Capacity in rows" value={capacity} onValue={setCapacity} /> of{" "}
        <Amount label="Rows per scoring run" value={rows} onValue={setRows} /> rows
        {able && (
          <Choice
            at={able}
            says={`finds ${formatShare(ratesOf(able).recall)} of the positives, at`}
            onThreshold={onThreshold}
          />
        )}
      </p>
      <p className="mt-1.5 flex flex-wrap items-center gap-x-2 gap-y-1">
        Recall of at least <Amount label="Recall to reach" value={recall} onValue={setRecall} /> % of the
        positives
        {found && (
          <Choice
            at={found}
            says={`precision ${formatShare(ratesOf(found).precision)}, at`}
            onThreshold={onThreshold}
          />
        )}
      </p>
      {f1 && (
        <p className="mt-1.5">
          Highest F1 {formatNumber(ratesOf(f1).f1)} <Choice at={f1} says="at" onThreshold={onThreshold} />
        </p>
      )}
    </div>
  );
}

function Amount({
  label,
  value,
  onValue,
}: {
  readonly label: string;
  readonly value: number;
  readonly onValue: (value: number) => void;
}) {
  return (
    <input
      type="number"
      min={0}
      step="any"
      aria-label={label}
      className="field figure w-[4.5rem]"
      value={value}
      onChange={(event) => onValue(Math.max(0, Number(event.target.value)))}
    />
  );
}

function Choice({
  at,
  says,
  onThreshold,
}: {
  readonly at: Confusion;
  readonly says: string;
  readonly onThreshold: (threshold: number) => void;
}) {
  return (
    <button type="button" className="underline" onClick={() => onThreshold(at.threshold)}>
      {says} {formatNumber(at.threshold)}
    </button>
  );
}
