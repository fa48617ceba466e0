import { alignWithin, areNumbers, type AlignedFigure } from "@/core/format/align-figures";
import { parseTableName } from "@/core/pipeline/table-name";
import { Padded } from "../basic/number-cell";
import { Sheet } from "../basic/sheet";
import { Skeleton } from "../basic/skeleton";
import { useRead } from "../queries/use-read";

const ROWS = 10;
/** Characters of a value that a column shows. */
const MOST_CHARACTERS = 28;

interface Page {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
}

interface Column {
  readonly name: string;
  readonly index: number;
  readonly role: string;
  readonly numeric: boolean;
  readonly align: ((text: string) => AlignedFigure) | undefined;
}

interface Props {
  readonly table: string;
  readonly target: string;
  readonly proposedKey: readonly string[];
}

/** The first rows of the chosen table, with target and key first. */
export function FirstRows({ table, target, proposedKey }: Props) {
  const reference = parseTableName(table);
  const place =
    reference &&
    `schema=${encodeURIComponent(reference.schema)}&table=${encodeURIComponent(reference.table)}&limit=${ROWS}`;
  const { value: page } = useRead<Page>(place && `/api/tables/rows?${place}`);
  if (!reference) return <p className="text-faded">Choose a table to preview its rows.</p>;
  if (!page) return <Skeleton label="reading rows …" lines={6} className="" />;
  if (page.rows.length === 0) return <p className="py-2 text-madder">The table is empty.</p>;
  const first = [target, ...proposedKey];
  const names = [
    ...first.filter((name) => page.columns.includes(name)),
    ...page.columns.filter((name) => !first.includes(name)),
  ];
  const columns = names.map((name) => columnOf(page, name, roleOf(name, target, proposedKey)));
  return (
    <div className="max-w-full overflow-x-auto border-y border-rule" tabIndex={0}>
      <Sheet className="text-caption">
        <thead>
          <tr>
            {columns.map(({ name, role, numeric }) => (
              <th key={name} className={numeric ? "number" : "whitespace-nowrap"}>
                {name}
                <span className="block font-normal text-faded">{role}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {page.rows.map((row, position) => (
            <tr key={position}>
              {columns.map((column) => (
                <Value key={column.name} column={column} value={row[column.index] ?? null} />
              ))}
            </tr>
          ))}
        </tbody>
      </Sheet>
    </div>
  );
}

function columnOf(page: Page, name: string, role: string): Column {
  const index = page.columns.indexOf(name);
  const texts = page.rows.flatMap((row) => row[index] ?? []);
  const numeric = areNumbers(texts);
  return { name, index, role, numeric, align: numeric ? alignWithin(texts, MOST_CHARACTERS) : undefined };
}

function roleOf(name: string, target: string, key: readonly string[]): string {
  if (name === target) return "target";
  return key.includes(name) ? "key" : "\u00a0";
}

function Value({ column, value }: { readonly column: Column; readonly value: string | null }) {
  const { align, numeric } = column;
  return (
    <td
      className={`figure max-w-72 truncate whitespace-nowrap ${numeric ? "number" : ""}`}
      title={value ?? ""}
    >
      {value === null && <span className="text-faded">–</span>}
      {value !== null && (align ? <Padded {...align(value)} /> : value)}
    </td>
  );
}
