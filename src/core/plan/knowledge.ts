import type { PipelineFile } from "../pipeline/schema";
import type { ColumnState } from "../steps/step";
import type { CheckedStrand } from "./plan";

/** A feature that may give the answer away, and the way by which it came: from the column at fault to the feature. */
export interface GivenAway {
  readonly feature: string;
  readonly because: "known_after" | "target_source";
  /** Names of columns: the first is the one known too late, or shared with the target; the last is the feature. */
  readonly path: readonly string[];
}

/** Every column anywhere in the pipeline by its identity. */
function columnsByIdentity(strands: readonly CheckedStrand[]): ReadonlyMap<string, ColumnState> {
  const found = new Map<string, ColumnState>();
  for (const strand of strands) {
    for (const columns of [strand.start, ...strand.steps.map((step) => step.shape.output)]) {
      for (const state of columns.values()) if (!found.has(state.identity)) found.set(state.identity, state);
    }
  }
  return found;
}

/** Columns that a name of the file may mean: in the main strand at any step, else in any other. */
function namedColumns(
  name: string,
  main: CheckedStrand,
  strands: readonly CheckedStrand[],
): readonly ColumnState[] {
  const within = (strand: CheckedStrand): ColumnState[] =>
    [strand.start, ...strand.steps.map((step) => step.shape.output)].flatMap(
      (columns) => columns.get(name) ?? [],
    );
  const here = within(main);
  return here.length > 0 ? here : strands.flatMap(within);
}

/**
 * Features that descend from a column marked as known only afterwards, or from a source column that the target is
 * made from as well. A column marked before or at, and the column of the moment of prediction, are above suspicion,
 * and so is what comes from them alone.
 */
export function answersGivenAway(
  file: PipelineFile,
  main: CheckedStrand,
  strands: readonly CheckedStrand[],
  features: readonly string[],
): readonly GivenAway[] {
  const columns = columnsByIdentity(strands);
  const marked = (wanted: (moment: string) => boolean): ReadonlySet<string> =>
    new Set(
      Object.entries(file.roles.known)
        .filter(([, moment]) => wanted(moment))
        .flatMap(([name]) => namedColumns(name, main, strands).map((namedColumn) => namedColumn.identity)),
    );
  const late = marked((moment) => moment === "after");
  const moment = file.brief?.moment?.column;
  const cleared = new Set([
    ...marked((text) => text !== "after"),
    ...(moment === undefined
      ? []
      : namedColumns(moment, main, strands).map((namedColumn) => namedColumn.identity)),
  ]);
  const target = main.output.get(file.roles.target.column);
  const shared = new Set((target?.sources ?? []).filter((source) => !cleared.has(source)));
  return features.flatMap((feature): GivenAway[] => {
    const state = main.output.get(feature);
    if (!state) return [];
    const way = wayTo(state, columns, cleared, (identity) => late.has(identity));
    if (way) return [{ feature, because: "known_after", path: way }];
    const common = wayTo(state, columns, cleared, (identity) => shared.has(identity));
    return common ? [{ feature, because: "target_source", path: common }] : [];
  });
}

/** The shortest way from a column that is looked for down to a feature, as names; undefined when there is none. */
function wayTo(
  feature: ColumnState,
  columns: ReadonlyMap<string, ColumnState>,
  cleared: ReadonlySet<string>,
  wanted: (identity: string) => boolean,
): readonly string[] | undefined {
  let front: { readonly identity: string; readonly way: readonly string[] }[] = [
    { identity: feature.identity, way: [feature.name] },
  ];
  const seen = new Set(front.map((member) => member.identity));
  while (front.length > 0) {
    const found = front.find((member) => wanted(member.identity));
    if (found) return found.way;
    front = front.flatMap(({ identity, way }) =>
      (cleared.has(identity) ? [] : (columns.get(identity)?.parents ?? [])).flatMap((parent) => {
        if (seen.has(parent)) return [];
        seen.add(parent);
        // A column that a step only changed keeps its name, and is told once.
        const name = columns.get(parent)?.name ?? parent;
        return [{ identity: parent, way: name === way[0] ? way : [name, ...way] }];
      }),
    );
  }
  return undefined;
}
