import type { Problem } from "@/core/problem";
import type { Answer } from "../../queries/answer";
import type { Tried } from "@/runs/draft/try-expression";

const NO_PROBLEMS: readonly Problem[] = [];

/** What an expression gives for some rows, or what is wrong with it. */
export function ExpressionSample({
  label,
  tried: { value, failure },
  opened,
}: {
  readonly label: string;
  readonly tried: Answer<Tried>;
  /** Whether the room for the sample is taken. */
  readonly opened: boolean;
}) {
  const { sample, type, problems = NO_PROBLEMS } = value ?? {};
  const rows = sample?.rows ?? [];
  return (
    <div
      className={opened ? "h-32 overflow-auto" : "min-h-5"}
      {...(opened ? { tabIndex: 0, role: "group", "aria-label": `Sample of ${label}` } : {})}
    >
      {problems.map(({ message, hint }) => (
        <p key={message} role="alert" className="mt-0.5 text-caption text-madder">
          {message} {hint && <span className="text-faded">{hint}</span>}
        </p>
      ))}
      {failure && <p className="mt-0.5 text-caption text-faded">No sample yet. {failure}</p>}
      {type && problems.length === 0 && (
        <p className="mt-0.5 truncate text-caption text-faded" aria-label={`Values of ${label}`}>
          gives {type}
          {rows.length > 0 && (
            <>
              :{" "}
              <span className="figure text-ink">
                {rows.map((row) => row.at(-1) ?? "missing").join(" · ")}
              </span>
            </>
          )}
        </p>
      )}
      {opened && sample && rows.length > 0 && sample.columns.length > 1 && <SampleTable sample={sample} />}
    </div>
  );
}

function SampleTable({ sample: { columns, rows } }: { readonly sample: NonNullable<Tried["sample"]> }) {
  return (
    <table className="figure mt-1 text-caption">
      <thead>
        <tr>
          {columns.map((name) => (
            <th
              key={name}
              className={`pr-4 text-left font-normal ${name === "result" ? "text-madder" : "text-faded"}`}
            >
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row, index) => (
          <tr key={index}>
            {row.map((cell, at) => (
              <td key={at} className="max-w-48 truncate pr-4">
                {cell ?? <i className="text-faded">missing</i>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
