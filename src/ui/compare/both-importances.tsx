import { formatNumber } from "@/core/format/numbers";
import { useFirst } from "../basic/use-first";
import type { Side } from "./side";
import { Sheet } from "../basic/sheet";

/** Features that are shown at first. */
const FEW_FEATURES = 12;

/** Feature importance of two trials; what is most important to either stands first. */
export function BothImportances({ first, second }: { readonly first: Side; readonly second: Side }) {
  const most = Math.max(first.importance.length, second.importance.length);
  const ranked = Array.from({ length: most }, (_, rank) => [first.importance[rank], second.importance[rank]])
    .flat()
    .flatMap((found) => (found ? [found.column] : []));
  const { shown: columns, showAll } = useFirst([...new Set(ranked)], FEW_FEATURES, "features");
  const of = (side: Side, name: string): string =>
    formatNumber(side.importance.find(({ column }) => column === name)?.worse);
  return (
    <section>
      <h3 className="font-semibold">Feature importance</h3>
      <Sheet className="max-w-3xl">
        <thead>
          <tr>
            <th>Feature</th>
            <th className="number">version {first.number}</th>
            <th className="number">version {second.number}</th>
          </tr>
        </thead>
        <tbody>
          {columns.map((name) => (
            <tr key={name}>
              <td>{name}</td>
              <td className="number">{of(first, name)}</td>
              <td className="number">{of(second, name)}</td>
            </tr>
          ))}
        </tbody>
      </Sheet>
      {showAll}
    </section>
  );
}
