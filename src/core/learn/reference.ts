import { z } from "zod";
import { ALGORITHM_NAMES, ALGORITHMS, factsOf } from "./algorithms";

const TARGETS = { binary: "yes or no", number: "a number", classes: "several classes" } as const;
const ENGINES = { warehouse: "in the warehouse", streaming: "on streamed rows" } as const;

/** The reference of all learners as Markdown: docs/learners.md. */
export function learnerReference(): string {
  const sections = ALGORITHM_NAMES.map((name) => {
    const facts = factsOf(name);
    const { properties = {} } = z.toJSONSchema(ALGORITHMS[name].settings, { io: "input" }) as {
      readonly properties?: Readonly<
        Record<string, { readonly description?: string; readonly default?: unknown }>
      >;
    };
    const rows = Object.entries(properties).map(
      ([setting, { description = "", default: standard }]) =>
        `| \`${setting}\` | ${description.replaceAll("|", "\\|")} | ${standard === undefined ? "" : `\`${JSON.stringify(standard)}\``} |`,
    );
    return [
      `## ${name}: ${facts.title.toLowerCase()}`,
      "",
      facts.about,
      "",
      `Predicts ${facts.targets.map((each) => TARGETS[each]).join(", ")}. Trains ${facts.engines.map((each) => ENGINES[each]).join(" or ")}.`,
      "",
      "| setting | what it says | when left out |",
      "| --- | --- | --- |",
      ...rows,
      "",
    ].join("\n");
  });
  return [
    "# Learners",
    "",
    "Made from the settings' schemas by `./ravlen schema --learners > docs/learners.md`. A candidate of the pipeline file names one as its `algorithm`. Every learner asks questions about the training rows (sums, counts, histograms) that are answered in the warehouse by statements, or by the worker after rows have streamed to it once; nearest neighbours and neural networks need the rows themselves. Every model becomes SQL for scoring.",
    "",
    ...sections,
  ].join("\n");
}
