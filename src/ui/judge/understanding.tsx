import { formatNumber } from "@/core/format/numbers";
import type { Judgement } from "@/core/evaluate/judgement";
import type { Model } from "@/core/learn/model";
import type { Task } from "@/core/learn/task";

import { Empty } from "../basic/empty";
import { CoefficientTable } from "./coefficient-table";
import { DependenceView } from "./dependence-view";
import { ImportanceView } from "./importance-view";
import { TreeView } from "./tree-view";
import { Sheet } from "../basic/sheet";

type Expectation =
  | string
  | {
      readonly expect: string;
      readonly found?: string | undefined;
      readonly held?: "yes" | "partly" | "no" | undefined;
    };

interface Props {
  /** The version's id. */
  readonly version: number;
  readonly model: Model;
  readonly judgement: Judgement | null;
  readonly task: Task;
  readonly expectations: readonly Expectation[];
}

const WHAT: Readonly<Record<Task["kind"], string>> = {
  binary: "log odds",
  number: "prediction",
  classes: "log of the class’s share",
};

/** Why the model says what it says: importance, dependence, coefficients or the tree, and what was expected of it. */
export function Understanding({ version, model, judgement, task, expectations }: Props) {
  const gains = "gains" in model.fit ? model.fit.gains : undefined;
  const coefficients = "coefficients" in model ? model.coefficients : undefined;
  if (model.algorithm === "base_rate")
    return <Empty title="The base rate has no features.">It predicts {model.says}for every row.</Empty>;
  return (
    <div className="space-y-10">
      {expectations.length > 0 && (
        <section aria-label="Expectations">
          <h2>Expectations</h2>
          <ul className="mt-1 font-serif text-body">
            {expectations.map((expectation, index) =>
              typeof expectation === "string" ? (
                <li key={index}>
                  {expectation}{" "}
                  <span className="font-sans text-caption text-faded">
                    no finding yet; add it in the Brief
                  </span>
                </li>
              ) : (
                <li key={index}>
                  {expectation.expect}{" "}
                  <span className="font-sans text-caption text-faded">
                    {expectation.held === undefined ? "no finding yet" : `confirmed: ${expectation.held}`}
                    {expectation.found ? `; ${expectation.found}` : ""}
                  </span>
                </li>
              ),
            )}
          </ul>
        </section>
      )}
      {judgement && judgement.importance.length > 0 && (
        <ImportanceView version={version} judgement={judgement} gains={gains} />
      )}
      {judgement && judgement.dependence.length > 0 && (
        <DependenceView
          all={judgement.dependence}
          features={judgement.importanceOf.columns ?? judgement.dependence.length}
          outputs={task.kind === "classes" ? task.classes : []}
          what={task.kind === "number" ? "prediction" : "probability"}
        />
      )}
      {model.algorithm === "decision_tree" && <TreeView tree={model.tree} task={task} />}
      {model.algorithm === "random_forest" && (
        <section>
          <h2>First tree of {formatNumber(model.trees.length)}</h2>
          <p className="text-caption text-faded">
            Out-of-bag loss {formatNumber(model.fit.outOfBag.loss)}, over{" "}
            {formatNumber(model.fit.outOfBag.rows)} rows.
          </p>
          <TreeView tree={model.trees[0]!} task={task} />
        </section>
      )}
      {model.algorithm === "boosted_trees" && model.rounds[0] && (
        <section>
          <h2>First tree of {formatNumber(model.rounds.length)}</h2>
          <p className="text-caption text-faded">
            Values are what it adds to the {model.link === "identity" ? "prediction" : "log odds"}.
          </p>
          <TreeView tree={model.rounds[0][0]!} task={{ kind: "number" }} />
        </section>
      )}
      {coefficients && (
        <section aria-label="Coefficients">
          <h2>Coefficients</h2>
          <p className="mb-1 text-caption text-faded">
            Change of the {model.algorithm === "support_vector" ? "margin" : WHAT[task.kind]} per unit of the
            column, other columns unchanged.
            {model.fit.errorsFrom
              ? ` Errors from ${model.fit.errorsFrom === "sample" ? `a sample of ${formatNumber(model.fit.sampleRows)} rows` : "all training rows"}${"ridge" in model.fit && model.fit.ridge > 0 ? "; with a penalty, they describe the penalised fit" : ""}.`
              : ""}
            {model.algorithm === "linear_regression"
              ? ` R² on the training rows ${formatNumber(model.fit.rSquared)}; residual standard error ${formatNumber(model.fit.residualError)} on ${formatNumber(model.fit.degrees)} degrees of freedom.`
              : ""}
          </p>
          <CoefficientTable
            rows={coefficients}
            odds={model.algorithm === "logistic_regression" || model.algorithm === "multinomial_regression"}
          />
        </section>
      )}
      {model.algorithm === "naive_bayes" && model.normals.length > 0 && <Normals model={model} task={task} />}
    </div>
  );
}

function Normals({
  model,
  task,
}: {
  readonly model: Extract<Model, { algorithm: "naive_bayes" }>;
  readonly task: Task;
}) {
  const classes = task.kind === "classes" ? task.classes : ["negative", "positive"];
  return (
    <section aria-label="Class profiles">
      <h2>Class profiles</h2>
      <p className="text-caption text-faded">Mean and standard deviation of each number by class.</p>
      <Sheet>
        <thead>
          <tr>
            <th>Feature</th>
            {classes.map((name) => (
              <th key={name} className="number">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {model.normals.map((normal) => (
            <tr key={normal.column}>
              <td>{normal.column}</td>
              {classes.map((name, code) => (
                <td key={name} className="number">
                  {formatNumber(normal.means[code]!)} ± {formatNumber(normal.deviations[code]!)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </Sheet>
    </section>
  );
}
