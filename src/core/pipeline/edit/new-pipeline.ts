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
  readonly target: NewTarget;
  readonly kind: TargetKind;
  /** For binary targets that are not yes/no: the values on both sides. */
  readonly positive?: Scalar | readonly Scalar[];
  readonly negative?: Scalar | readonly Scalar[];
  /** The learner that is tried beside the base rate; one that is easy to read when left out. */
  readonly learner?: Algorithm | undefined;
  /** What is done to columns first. */
  readonly preparation?: readonly Preparation[];
}

/**
 * A column of the table, an expression that gives a new column, or labels of regions that are drawn over two
 * columns.
 */
export type NewTarget =
  | { readonly column: string }
  | { readonly expression: string; readonly into: string }
  | { readonly drawn: DrawnTarget };

/** A target that is drawn: the label of the region in which a row lies. */
export interface DrawnTarget {
  readonly x: string;
  readonly y: string;
  readonly regions: readonly {
    readonly label: string;
    readonly points: readonly (readonly [number, number])[];
  }[];
  /** The label of rows in no region; they have none when left out. */
  readonly otherwise?: string;
  /** The new column. */
  readonly into: string;
  readonly scales?: OwnScales;
}

/**
 * Entities that each have a scale of their own: numbers are compared with the entity's earlier rows.
 * Training rows cannot say what is usual, since the labels that make them training rows are drawn over the
 * result.
 */
export interface OwnScales {
  readonly entity: string;
  /** The column by which an entity's earlier rows are found. */
  readonly order: string;
  readonly columns: readonly string[];
}

/** The step that puts all entities on one scale. */
export const scaleStep = ({ entity, order, columns }: OwnScales): Readonly<Record<string, unknown>> => ({
  do: "baseline",
  name: `normalised per ${entity}`,
  columns,
  entity: [entity],
  past: { order },
});

function drawingSteps(drawn: DrawnTarget): readonly Readonly<Record<string, unknown>>[] {
  const { x, y, regions, otherwise, into, scales } = drawn;
  return [
    ...(scales ? [scaleStep(scales)] : []),
    {
      do: "label_regions",
      x,
      y,
      ...(scales ? { colour: scales.entity } : {}),
      regions: regions.map(({ label, points }) => ({ label, points })),
      ...(otherwise === undefined ? {} : { otherwise }),
      into,
    },
  ];
}

/** The column that is predicted, the steps that make it, and the roles that come with it. */
function targetParts(target: NewTarget) {
  if ("column" in target) return { column: target.column, steps: [], roles: {}, exclude: [] };
  if ("expression" in target)
    return {
      column: target.into,
      steps: [{ do: "derive", name: "target", columns: { [target.into]: target.expression } }],
      roles: {},
      exclude: [],
    };
  const { x, y, scales, into } = target.drawn;
  return {
    column: into,
    steps: drawingSteps(target.drawn),
    roles: scales ? { time: scales.order, group: scales.entity } : {},
    exclude: [x, y].map((column) => ({ column, because: "the label is drawn over it" })),
  };
}

/** A pipeline file to begin with: one strand, its key, the target, what its columns need, and a learner. Everything else is added in the Braid. */
export function newPipelineText(wanted: NewPipeline): string {
  const strand = parseTableName(wanted.table)?.table ?? "rows";
  const target = targetParts(wanted.target);
  const { preparation = [] } = wanted;
  const steps = [...target.steps, ...preparation.flatMap(({ step }) => step ?? [])];
  const exclude = [
    ...target.exclude,
    ...preparation.flatMap(({ columns, because }) =>
      because === undefined ? [] : columns.map((column) => ({ column, because })),
    ),
  ];
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
          column: target.column,
          kind: wanted.kind,
          ...(wanted.positive === undefined ? {} : { positive: wanted.positive }),
          ...(wanted.negative === undefined ? {} : { negative: wanted.negative }),
        },
        ...target.roles,
        ...(exclude.length > 0 ? { exclude } : {}),
      },
    },
    { rows: { from: strand } },
    { candidates: readableCandidates(wanted.kind, wanted.learner) },
  ];
  return parts
    .map((part) => {
      const document = new Document(part);
      const key: unknown = document.getIn(["roles", "key"], true);
      if (isSeq(key)) key.flow = true;
      return document.toString({ lineWidth: 0, flowCollectionPadding: false });
    })
    .join("\n");
}
