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
import { BarCell } from "../charts/bar-cell";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import type { CoefficientRow } from "@/core/learn/linear/readable";
import { Sheet } from "../basic/sheet";

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

const SORTED = {
  asc: { ariaSort: "ascending", icon: <ArrowUp size={12} aria-hidden /> },
  desc: { ariaSort: "descending", icon: <ArrowDown size={12} aria-hidden /> },
} as const;

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
  const axis = cellAxis({ title: "standardised coefficient" }, [
    0,
    ...rows.filter((row) => row.column !== undefined).map((row) => row.perDeviation),
  ]);
  return (
    <Sheet data-testid="coefficients">
      <thead>
        {table.getHeaderGroups().map((group) => (
          <tr key={group.id}>
            {group.headers.map((header) => {
              const sorted = header.column.getIsSorted();
              return (
                <th
                  key={header.id}
                  className={header.column.id === "term" || header.column.id === "class" ? "" : "number"}
                  aria-sort={sorted === false ? "none" : SORTED[sorted].ariaSort}
                >
                  <button
                    type="button"
                    className="inline-flex items-center gap-1 font-sans font-medium"
                    onClick={header.column.getToggleSortingHandler()}
                  >
                    {flexRender(header.column.columnDef.header, header.getContext())}
                    {sorted !== false && SORTED[sorted].icon}
                  </button>
                </th>
              );
            })}
            <th>
              <CellAxisHead axis={axis} />
            </th>
          </tr>
        ))}
      </thead>
      <tbody>
        {table.getRowModel().rows.map((row) => {
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
                <BarCell
                  axis={axis}
                  value={row.original.column === undefined ? 0 : row.original.perDeviation}
                />
              </td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}
