import { Document, isSeq } from "yaml";
import type { Algorithm } from "../../learn/algorithms";
import type { Scalar } from "../../expression/has-value";
import { readableCandidates } from "../defaults";
import type { Preparation } from "../proposal/propose-preparation";
import type { TargetKind } from "../schema";
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
  readonly kind: TargetKind;
  /** For binary targets that are not yes/no: the values on both sides. */
  readonly positive?: Scalar | readonly Scalar[];
  readonly negative?: Scalar | readonly Scalar[];
  /** The learner that is tried beside the base rate; one that is easy to read when left out. */
  readonly learner?: Algorithm | undefined;
  /** What is done to columns first. */
  readonly preparation?: readonly Preparation[];
}

const DERIVED = "answer";

/** A pipeline file to begin with: one strand, its key, the target, what its columns need, and a learner. Everything else is added in the Braid. */
export function newPipelineText(wanted: NewPipeline): string {
  const strand = parseTableName(wanted.table)?.table ?? "rows";
  const target = "column" in wanted.target ? wanted.target.column : DERIVED;
  const { preparation = [] } = wanted;
  const steps = [
    ...("expression" in wanted.target
      ? [{ do: "derive", name: "answer", columns: { [DERIVED]: wanted.target.expression } }]
      : []),
    ...preparation.flatMap(({ step }) => step ?? []),
  ];
  const exclude = preparation.flatMap(({ columns, because }) =>
    because === undefined ? [] : columns.map((column) => ({ column, because })),
  );
  const parts: readonly Readonly<Record<string, unknown>>[] = [
    { ravlen: 1, name: wanted.name },
    ...(wanted.question.trim() === "" ? [] : [{ brief: { question: wanted.question.trim() } }]),
    {
      strands: [
        {
          name: strand,
          from: wanted.table,
          ...(steps.length > 0 ? { steps } : {}),
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
          ...(wanted.negative === undefined ? {} : { negative: wanted.negative }),
        },
        ...(exclude.length > 0 ? { exclude } : {}),
      },
    },
    { rows: { from: strand } },
    { candidates: readableCandidates(wanted.kind, wanted.learner) },
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
