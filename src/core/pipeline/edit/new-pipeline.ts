import { Document, isSeq } from "yaml";
import { readableCandidates } from "../defaults";
import { parseTableName } from "../table-name";

/** What a new pipeline begins with. */
export interface NewPipeline {
  readonly name: string;
  readonly question: string;
  /** schema.table */
  readonly table: string;
  readonly key: readonly string[];
  /** A column of the table, or an expression that gives a new column "answer". */
  readonly target: { readonly column: string } | { readonly expression: string };
  readonly kind: "binary" | "number" | "classes";
  /** For binary targets that are not yes/no. */
  readonly positive?: string | number | undefined;
}

const DERIVED = "answer";

/** A pipeline file to begin with: one strand, its key, the target, a learner. Everything else is added in the Braid. */
export function newPipelineText(wanted: NewPipeline): string {
  const strand = parseTableName(wanted.table)?.table ?? "rows";
  const target = "column" in wanted.target ? wanted.target.column : DERIVED;
  const parts: readonly Readonly<Record<string, unknown>>[] = [
    { ravlen: 1, name: wanted.name },
    ...(wanted.question.trim() === "" ? [] : [{ brief: { question: wanted.question.trim() } }]),
    {
      strands: [
        {
          name: strand,
          from: wanted.table,
          ...("expression" in wanted.target
            ? { steps: [{ do: "derive", name: "answer", columns: { [DERIVED]: wanted.target.expression } }] }
            : {}),
        },
      ],
    },
    {
      roles: {
        key: wanted.key,
        target: {
          column: target,
          kind: wanted.kind,
          ...(wanted.positive === undefined ? {} : { positive: wanted.positive }),
        },
      },
    },
    { rows: { from: strand } },
    { candidates: readableCandidates(wanted.kind) },
  ];
  return parts
    .map((each) => {
      const document = new Document(each);
      const key: unknown = document.getIn(["roles", "key"], true);
      if (isSeq(key)) key.flow = true;
      return document.toString({ lineWidth: 0, flowCollectionPadding: false });
    })
    .join("\n");
}
