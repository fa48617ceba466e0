"use client";
import { useState } from "react";
import type { LearnedPart } from "@/server/learned";
import { learnedLines } from "./learned-lines";
import { Sheet } from "./sheet";

/** What one version learned. */
export interface LearnedSide {
  readonly title: string;
  readonly parts: readonly LearnedPart[];
}

const MOST = 200;

interface Line {
  readonly path: string;
  readonly values: readonly (string | undefined)[];
}

/** Lines of a part in each of the sides, in the order in which they first occur. */
function linesOf(sides: readonly LearnedSide[], part: string): readonly Line[] {
  const own = sides.map(
    (side) =>
      new Map(
        learnedLines(side.parts.find((onePart) => onePart.name === part)?.value ?? []).map((line) => [
          line.path,
          line.value,
        ]),
      ),
  );
  const paths = [...new Set(own.flatMap((row) => [...row.keys()]))].filter(
    (path) => path !== "" || own.some((row) => (row.get(path) ?? "0: ") !== "0: "),
  );
  return paths.map((path) => ({ path, values: own.map((row) => row.get(path)) }));
}

/** Values that steps and learner found, of one version or of two side by side. Of two, those that differ come first to the eye. */
export function LearnedTable({ sides }: { readonly sides: readonly LearnedSide[] }) {
  const [everything, setEverything] = useState(sides.length < 2);
  const names = [...new Set(sides.flatMap((side) => side.parts.map((part) => part.name)))];
  const inAll = (name: string): boolean =>
    sides.every((side) => side.parts.some((part) => part.name === name));
  const parts = names.filter(inAll).map((name) => ({ name, lines: linesOf(sides, name) }));
  const alone = sides
    .map((side) => ({
      title: side.title,
      names: side.parts.map((part) => part.name).filter((name) => !inAll(name)),
    }))
    .filter((part) => part.names.length > 0);
  const differs = ({ values }: Line): boolean => values.some((value) => value !== values[0]);
  const shown = parts.map(({ name, lines }) => ({ name, lines: everything ? lines : lines.filter(differs) }));
  const total = parts.reduce((sum, part) => sum + part.lines.length, 0);
  const same = total - parts.reduce((sum, part) => sum + part.lines.filter(differs).length, 0);
  const onlyThere = alone.map((side) => (
    <p key={side.title} className="text-caption text-faded">
      Only in {side.title}: {side.names.join(", ")}.
    </p>
  ));
  if (total === 0)
    return alone.length > 0 ? (
      <>{onlyThere}</>
    ) : (
      <p className="text-caption text-faded">
        No step learned values, and the algorithm has no coefficients.
      </p>
    );
  return (
    <div data-testid="learned-values">
      {sides.length > 1 && (
        <p className="mb-1 text-caption text-faded">
          {same === total ? "Identical in both." : `${total - same} of ${total} values differ.`}{" "}
          <label className="ml-3 text-ink">
            <input
              type="checkbox"
              className="mr-1.5 accent-(--woad)"
              checked={everything}
              onChange={(event) => setEverything(event.target.checked)}
            />
            show identical values too
          </label>
        </p>
      )}
      {shown
        .filter((part) => part.lines.length > 0)
        .map(({ name, lines }) => (
          <Sheet key={name} className="mb-3 max-w-4xl table-fixed">
            <thead>
              <tr>
                <th className="w-2/5">{name}</th>
                {sides.map((side) => (
                  <th key={side.title} className={sides.length === 1 ? "relative" : ""}>
                    {side.title || <span className="sr-only">value</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {lines.slice(0, MOST).map((line) => (
                <tr key={line.path}>
                  <td className="truncate" title={line.path}>
                    {line.path}
                  </td>
                  {line.values.map((value, index) => (
                    <td key={index} className="figure truncate" title={value}>
                      {value ?? <span className="text-faded">–</span>}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
            {lines.length > MOST && (
              <tfoot>
                <tr>
                  <td colSpan={sides.length + 1} className="text-faded">
                    and {lines.length - MOST} more
                  </td>
                </tr>
              </tfoot>
            )}
          </Sheet>
        ))}
      {onlyThere}
    </div>
  );
}
