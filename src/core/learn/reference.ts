import { settingProperties } from "../setting-properties";
import { ALGORITHM_NAMES, ALGORITHMS, factsOf } from "./algorithms";
import { TARGET_WORDS } from "./task";

const ENGINES = { warehouse: "in the warehouse", streaming: "on streamed rows" } as const;

/** The reference of all learners as Markdown: docs/learners.md. */
export function learnerReference(): string {
  const sections = ALGORITHM_NAMES.map((name) => {
    const facts = factsOf(name);
    const rows = settingProperties(ALGORITHMS[name].settings).map(
      ([setting, { description = "", default: standard }]) =>
        `| \`${setting}\` | ${description.replaceAll("|", "\\|")} | ${standard === undefined ? "" : `\`${JSON.stringify(standard)}\``} |`,
    );
    return [
      `## ${name}: ${facts.title.toLowerCase()}`,
      "",
      facts.about,
      "",
      `Predicts ${facts.targets.map((target) => TARGET_WORDS[target]).join(", ")}. Trains ${facts.engines.map((engine) => ENGINES[engine]).join(" or ")}.`,
      "",
      "| setting | description | default |",
      "| --- | --- | --- |",
      ...rows,
      "",
    ].join("\n");
  });
  return [
    "# Algorithms",
    "",
    "Generated from the settings by `./ravlen schema --learners > docs/learners.md`. A candidate in the pipeline file sets one as its `algorithm`. Algorithms ask for aggregates of the training rows (sums, counts, histograms), which are computed in the warehouse by SQL or by the worker on streamed rows; nearest neighbours and neural networks need individual rows. Every model compiles to SQL for scoring.",
    "",
    ...sections,
  ].join("\n");
}
