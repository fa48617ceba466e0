import { memo, type ReactNode } from "react";
import type { Braid } from "@/core/plan/braid";
import { CrossingLines } from "./crossing-lines";
import { LABEL_WIDTH, ROLE_WIDTH, type BraidRow } from "./geometry";
import type { PickKind } from "./pick-many";
import { RowBody } from "./row-body";
import { RowLabel } from "./row-label";
import { RowRole } from "./row-role";
import type { Measured } from "./use-counts";

/** A line of the Braid with where it is, in pixels from the top. */
export interface PlacedRow {
  readonly key: string | number | bigint;
  readonly row: BraidRow;
  readonly start: number;
  readonly size: number;
}

interface Props {
  readonly rows: readonly PlacedRow[];
  readonly height: number;
  readonly braid: Braid;
  readonly width: number;
  readonly measured: Measured;
  readonly selected: number;
  readonly current: string | null;
  readonly picked: ReadonlySet<string>;
  readonly unfolded: ReadonlySet<string>;
  readonly onThread: (id: string, pick: PickKind) => void;
  readonly onFold: (strand: string) => void;
  readonly onCopyStrand: (strand: string) => void;
  readonly onBeginning: (strand: string) => void;
}

/**
 * The lines of the Braid in sight. Names and roles are a column each that stays while the threads scroll sideways: a browser moves two
 * such columns with ease, and not two for every line.
 */
export const BraidRows = memo(function BraidRows(props: Props) {
  const { rows, height, braid, width, measured, selected, current, picked, unfolded } = props;
  const isPicked = (row: BraidRow): boolean => row.kind === "thread" && picked.has(row.thread.id);
  const placed = (draw: (row: BraidRow) => ReactNode): ReactNode =>
    rows.map(({ key, row, start, size }) => (
      <div
        key={key}
        className="absolute inset-x-0 contain-layout contain-size"
        style={{ height: size, top: start }}
      >
        {draw(row)}
      </div>
    ));
  return (
    <div className="flex" style={{ height }}>
      <div
        className="sticky left-0 z-10 shrink-0 bg-linen will-change-transform"
        style={{ width: LABEL_WIDTH }}
      >
        {placed((row) => (
          <RowLabel
            row={row}
            current={row.kind === "thread" && row.thread.id === current}
            picked={isPicked(row)}
            unfolded={unfolded.has(row.group.strand)}
            onThread={props.onThread}
            onFold={props.onFold}
            onBeginning={props.onBeginning}
            onCopyStrand={props.onCopyStrand}
          />
        ))}
      </div>
      <div className="relative shrink-0" style={{ width }}>
        <CrossingLines crossings={braid.crossings.length} selected={selected} />
        {placed((row) => (
          <RowBody
            row={row}
            braid={braid}
            width={width}
            measured={measured}
            selected={isPicked(row) || row.kind === "group" ? selected : -1}
            picked={isPicked(row)}
            onThread={props.onThread}
          />
        ))}
      </div>
      <div
        className="sticky right-0 z-10 ml-auto shrink-0 bg-linen will-change-transform"
        style={{ width: ROLE_WIDTH }}
      >
        {placed((row) => (
          <RowRole row={row} />
        ))}
      </div>
    </div>
  );
});
