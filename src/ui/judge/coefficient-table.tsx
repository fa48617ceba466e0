"use client";
import { formatNumber } from "@/core/format/numbers";
import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  useReactTable,
  type SortingState,
} from "@tanstack/react-table";
import { ArrowDown, ArrowUp } from "lucide-react";
import { useState } from "react";
import type { CoefficientRow } from "@/core/learn/linear/readable";

const helper = createColumnHelper<CoefficientRow>();
const bySize = (left: number, right: number): number => Math.abs(left) - Math.abs(right);
const COLUMNS = [
  helper.accessor("class", { header: "Class" }),
  helper.accessor("term", { header: "Term" }),
  helper.accessor("estimate", { header: "Coefficient", cell: (cell) => formatNumber(cell.getValue()) }),
  helper.accessor("error", { header: "Standard error", cell: (cell) => formatNumber(cell.getValue()) }),
  helper.accessor("ratio", {
    header: "z or t",
    cell: (cell) => formatNumber(cell.getValue()),
    sortingFn: (left, right) => bySize(left.original.ratio ?? 0, right.original.ratio ?? 0),
  }),
  helper.accessor("p", {
    header: "p",
    cell: (cell) => {
      const p = cell.getValue();
      return p !== null && p < 1e-16 ? "< 1e-16" : formatNumber(p);
    },
  }),
  helper.accessor((row) => Math.exp(row.estimate), {
    id: "odds",
    header: "Odds ratio",
    cell: (cell) => formatNumber(cell.getValue()),
  }),
  helper.accessor("perDeviation", {
    header: "Standardised",
    cell: (cell) => formatNumber(cell.getValue()),
    sortingFn: (left, right) => bySize(left.original.perDeviation, right.original.perDeviation),
  }),
];

/** Coefficients in original units with their errors; every column sorts. The bar shows the change per standard deviation. */
export function CoefficientTable({
  rows,
  odds,
}: {
  readonly rows: readonly CoefficientRow[];
  readonly odds: boolean;
}) {
  const [sorting, setSorting] = useState<SortingState>([{ id: "perDeviation", desc: true }]);
  const hidden = {
    class: rows.some((row) => row.class !== undefined),
    error: rows.some((row) => row.error !== null),
    ratio: rows.some((row) => row.error !== null),
    p: rows.some((row) => row.error !== null),
    odds,
  };
  const table = useReactTable({
    data: rows as CoefficientRow[],
    columns: COLUMNS,
    state: { sorting, columnVisibility: hidden },
    onSortingChange: setSorting,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const most = Math.max(
    ...rows.filter((row) => row.column !== undefined).map((row) => Math.abs(row.perDeviation)),
    1e-9,
  );
  return (
    <table className="sheet" data-testid="coefficients">
      <thead>
        {table.getHeaderGroups().map((group) => (
          <tr key={group.id}>
            {group.headers.map((header) => {
              const sorted = header.column.getIsSorted();
              return (
                <th
                  key={header.id}
                  className={header.column.id === "term" || header.column.id === "class" ? "" : "number"}
                  aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none"}
                >
                  <button
                    type="button"
                    className="inline-flex items-center gap-1 font-sans font-medium"
                    onClick={header.column.getToggleSortingHandler()}
                  >
                    {flexRender(header.column.columnDef.header, header.getContext())}
                    {sorted === "asc" ? (
                      <ArrowUp size={12} aria-hidden />
                    ) : sorted === "desc" ? (
                      <ArrowDown size={12} aria-hidden />
                    ) : null}
                  </button>
                </th>
              );
            })}
            <th className="w-40" aria-label="Direction and size" />
          </tr>
        ))}
      </thead>
      <tbody>
        {table.getRowModel().rows.map((row) => {
          const size =
            row.original.column === undefined ? 0 : (Math.abs(row.original.perDeviation) / most) * 74;
          const up = row.original.perDeviation >= 0;
          return (
            <tr key={row.id}>
              {row.getVisibleCells().map((cell) => (
                <td
                  key={cell.id}
                  className={
                    cell.column.id === "term" || cell.column.id === "class" ? "break-words" : "number"
                  }
                >
                  {flexRender(cell.column.columnDef.cell, cell.getContext())}
                </td>
              ))}
              <td>
                <svg
                  width="150"
                  height="14"
                  role="img"
                  aria-label={up ? "raises the odds" : "lowers the odds"}
                >
                  <line x1="75" x2="75" y1="0" y2="14" stroke="var(--rule)" />
                  <rect
                    x={up ? 75 : 75 - size}
                    y="3"
                    width={size}
                    height="8"
                    fill={up ? "var(--madder)" : "var(--woad)"}
                    opacity="0.8"
                  />
                </svg>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
