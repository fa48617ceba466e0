/** Pieces of a pipeline file over the demo's tables, for tests that follow the advice of messages. All are YAML. */
export interface Pieces {
  /** Steps of the main strand, in flow style, with commas between. */
  readonly steps?: string;
  /** Further strands before it, each beginning with "- ". */
  readonly strands?: string;
  readonly key?: string;
  readonly target?: string;
  /** Further roles, with commas before. */
  readonly roles?: string;
  readonly rows?: string;
  readonly holdout?: string;
  readonly candidate?: string;
  readonly delivery?: string;
  readonly more?: string;
  readonly from?: string;
}

/** A pipeline file that is good as it stands; pieces take the place of its own. */
export function fileOf({
  steps = "",
  strands = "",
  key = "parcel_id",
  target = "{column: reminders_sent, kind: number}",
  roles = "",
  rows = "{from: parcels, train: 'true', score: 'true'}",
  holdout = "{share: 0.25}",
  candidate = "{name: plain, algorithm: linear_regression}",
  delivery = "{name: desk, table: predictions.desk}",
  more = "",
  from = "larkmere.parcels",
}: Pieces = {}): string {
  return `ravlen: 1
name: advice
strands:
  - {name: sites, from: larkmere.sites}
  - {name: weather, from: larkmere.weather}
  - {name: recipients, from: larkmere.recipients}
  ${strands}
  - name: parcels
    from: ${from}
    steps: [${steps}]
roles: {key: [${key}], target: ${target}${roles}}
rows: ${rows}
holdout: ${holdout}
candidates: [${candidate}]
delivery: [${delivery}]
${more}
`;
}

/** A mistake, and what becomes of it when the advice is followed: the code of the problem, the wrong piece, and the right one. */
export type AdviceCase = readonly [code: string, wrong: Pieces | string, right: Pieces | string];

/** The same for steps of the main strand. */
export const steps = (code: string, wrong: string, right: string, others: Pieces = {}): AdviceCase => [
  code,
  { ...others, steps: wrong },
  { ...others, steps: right },
];

/** The same for an expression that derives a column. */
export const derived = (code: string, wrong: string, right: string): AdviceCase =>
  steps(
    code,
    `{do: derive, columns: {made: ${JSON.stringify(wrong)}}}`,
    `{do: derive, columns: {made: ${JSON.stringify(right)}}}`,
  );
