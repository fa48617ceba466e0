"use client";
import { Plus, X } from "lucide-react";
import type { ReactNode } from "react";
import { changePart, valueIn } from "@/core/pipeline/edit/parts";
import type { DraftPage } from "@/server/draft-page";
import { METRIC_NAMES, METRICS, type MetricName } from "@/core/evaluate/metrics";
import { Problems } from "../basic/problems";
import { columnsAt, lengthOf, mainGroup } from "../braid/places";
import { DraftNotices } from "../braid/tool-line";
import { DraftProvider, useDesk } from "../draft/draft-context";
import { useDraft } from "../draft/use-draft";
import { useSaveVersion } from "../editor/use-save-version";
import { TypedLine } from "./typed-line";

interface Expectation {
  readonly expect: string;
  readonly found?: string;
  readonly held?: string;
}

const HELD = [
  ["", "not checked"],
  ["yes", "confirmed"],
  ["partly", "partly"],
  ["no", "not confirmed"],
] as const;

/** The statement of the problem, written where it is read. */
export function BriefDesk({ pipeline, version, stored, words, first }: DraftPage) {
  const draft = useDraft(pipeline, version, stored);
  return (
    <DraftProvider pipeline={pipeline} draft={draft} words={words} first={first}>
      <Brief version={version} basedOn={stored?.basedOn} />
    </DraftProvider>
  );
}

function Line({ label, children }: { readonly label: string; readonly children: ReactNode }) {
  return (
    <div className="grid grid-cols-[150px_1fr] items-start gap-4">
      <span className="pt-0.5 text-right font-sans text-sm text-faded">{label}</span>
      <div>{children}</div>
    </div>
  );
}

function Brief({
  version,
  basedOn,
}: {
  readonly version: DraftPage["version"];
  readonly basedOn: number | undefined;
}) {
  const { pipeline, draft, braid, problems } = useDesk();
  const { askToSave, dialog } = useSaveVersion(pipeline, version);
  const text = (...path: readonly (string | number)[]): string => {
    const found = valueIn(draft.text, ["brief", ...path]);
    return typeof found === "string" || typeof found === "number" ? String(found) : "";
  };
  const put = (path: readonly (string | number)[], value: unknown): void =>
    void draft.edit((now) => changePart(now, ["brief", ...path], value === "" ? undefined : value));
  const raw = valueIn(draft.text, ["brief", "expectations"]);
  const expectations = (Array.isArray(raw) ? raw : []).map((each: unknown): Expectation =>
    typeof each === "string" ? { expect: each } : (each as Expectation),
  );
  const putExpectations = (next: readonly Expectation[]): void =>
    put(
      ["expectations"],
      next.length === 0
        ? ""
        : next.map((each) =>
            each.found || each.held
              ? {
                  expect: each.expect,
                  ...(each.found ? { found: each.found } : {}),
                  ...(each.held ? { held: each.held } : {}),
                }
              : each.expect,
          ),
    );
  const change = (at: number, part: Partial<Expectation>): void =>
    putExpectations(expectations.map((each, index) => (index === at ? { ...each, ...part } : each)));
  const main = braid && mainGroup(braid);
  const columns =
    braid && main
      ? columnsAt(braid, { strand: main.strand, after: lengthOf(braid, main.strand) }).filter(
          (each) => each.family === "time",
        )
      : [];
  const [atLeast, atMost] = [
    valueIn(draft.text, ["brief", "success", "at_least"]),
    valueIn(draft.text, ["brief", "success", "at_most"]),
  ];
  const metric = text("success", "metric");
  const level = atLeast ?? atMost;
  const excluded = (valueIn(draft.text, ["roles", "exclude"]) ?? []) as readonly {
    readonly column: string;
    readonly because: string;
  }[];
  const errors = problems.filter((each) => each.severity === "error" && each.location?.path?.[0] === "brief");
  return (
    <div className="page py-6">
      <div className="mb-4 flex items-center gap-2 text-sm text-faded">
        <span role="status" data-testid="keeping">
          {draft.changed
            ? draft.keeping === "kept"
              ? "draft saved"
              : "saving draft …"
            : `version ${version.number}`}
        </span>
        <button
          type="button"
          className="press press-quiet ml-auto px-2 py-0.5"
          disabled={!draft.canUndo}
          onClick={draft.undo}
        >
          Undo
        </button>
        <button
          type="button"
          className="press press-main py-0.5"
          disabled={!draft.changed || problems.some((each) => each.severity === "error")}
          onClick={askToSave}
        >
          Save version
        </button>
      </div>
      <DraftNotices basedOn={basedOn} version={version.number} />
      <article className="space-y-4 font-serif text-[1.12rem] leading-relaxed">
        <TypedLine
          label="Question"
          value={text("question")}
          onChange={(value) => put(["question"], value)}
          placeholder="What should be predicted? Ask it as a colleague would."
          className="text-2xl font-medium"
        />
        <Line label="One row is">
          <TypedLine
            label="One row is"
            value={text("row")}
            onChange={(value) => put(["row"], value)}
            placeholder="for example: one delivered parcel"
          />
        </Line>
        <Line label="Time of prediction">
          <TypedLine
            label="Time of prediction, in words"
            value={text("moment", "when")}
            onChange={(value) =>
              put(
                ["moment"],
                value === ""
                  ? ""
                  : {
                      when: value,
                      ...(text("moment", "column") ? { column: text("moment", "column") } : {}),
                    },
              )
            }
            placeholder="for example: the evening of the delivery day"
          />
          {text("moment", "when") !== "" && (
            <label className="flex items-center gap-2 font-sans text-sm text-faded">
              column with that time{" "}
              <select
                className="field py-0.5"
                value={text("moment", "column")}
                onChange={(event) => put(["moment", "column"], event.target.value)}
              >
                <option value="">none</option>
                {[
                  ...new Set([
                    ...columns.map((each) => each.name),
                    ...(text("moment", "column") ? [text("moment", "column")] : []),
                  ]),
                ].map((each) => (
                  <option key={each}>{each}</option>
                ))}
              </select>
            </label>
          )}
        </Line>
        <Line label="Users">
          <TypedLine
            label="Who uses it"
            value={text("users")}
            onChange={(value) => put(["users"], value)}
            placeholder="Who acts on it, and how"
          />
        </Line>
        <Line label="Success criterion">
          <span className="flex items-center gap-2 font-sans text-sm">
            <select
              aria-label="Metric of success"
              className="field py-0.5"
              value={metric}
              onChange={(event) =>
                put(
                  ["success"],
                  event.target.value === ""
                    ? ""
                    : {
                        metric: event.target.value,
                        ...(METRICS[event.target.value as MetricName].better === "low"
                          ? { at_most: Number(level ?? 0.2) }
                          : { at_least: Number(level ?? 0.8) }),
                      },
                )
              }
            >
              <option value="">not set</option>
              {METRIC_NAMES.map((name) => (
                <option key={name} value={name}>
                  {METRICS[name].title}
                </option>
              ))}
            </select>
            {metric !== "" && (
              <>
                of {atMost === undefined ? "at least" : "at most"}
                <TypedLine
                  label="Level of success"
                  value={String(level ?? "")}
                  onChange={(value) => {
                    const number = Number(value);
                    if (value !== "" && !Number.isNaN(number))
                      put(["success", atMost === undefined ? "at_least" : "at_most"], number);
                  }}
                  placeholder="such as 0.8"
                  className="figure w-20"
                />
              </>
            )}
          </span>
        </Line>
        <section aria-label="Expectations" className="pt-3">
          <h2 className="font-sans">Expectations and findings</h2>
          <ol className="mt-2 space-y-2">
            {expectations.map((each, index) => (
              <li
                key={index}
                className="grid grid-cols-[1fr_1fr_auto] items-baseline gap-4 border-b border-weft pb-2"
              >
                <TypedLine
                  label={`Expectation ${index + 1}`}
                  value={each.expect}
                  onChange={(value) => {
                    if (value !== "") change(index, { expect: value });
                  }}
                  placeholder=""
                />
                <span>
                  <select
                    aria-label={`Was expectation ${index + 1} confirmed?`}
                    className={`mr-2 bg-transparent font-sans text-sm ${each.held === "no" ? "text-madder" : each.held === "yes" ? "text-moss" : "text-faded"}`}
                    value={each.held ?? ""}
                    onChange={(event) => change(index, { held: event.target.value })}
                  >
                    {HELD.map(([value, words]) => (
                      <option key={value} value={value}>
                        {words}
                      </option>
                    ))}
                  </select>
                  <TypedLine
                    label={`Finding for expectation ${index + 1}`}
                    value={each.found ?? ""}
                    onChange={(value) => change(index, { found: value })}
                    placeholder="Finding"
                    className="text-base"
                  />
                </span>
                <button
                  type="button"
                  aria-label={`Remove expectation ${index + 1}`}
                  className="press press-quiet px-1"
                  onClick={() => putExpectations(expectations.filter((_, at) => at !== index))}
                >
                  <X size={13} />
                </button>
              </li>
            ))}
          </ol>
          <button
            type="button"
            className="press press-quiet mt-1 px-1 font-sans text-sm"
            onClick={() => putExpectations([...expectations, { expect: "I expect that …" }])}
          >
            <Plus size={13} aria-hidden />
            expectation
          </button>
        </section>
        {excluded.length > 0 && (
          <section aria-label="Left out" className="pt-3">
            <h2 className="font-sans">Excluded from features</h2>
            <ul className="mt-1 space-y-1">
              {excluded.map((each) => (
                <li key={each.column}>
                  <code className="text-base">{each.column}</code>: {each.because}
                </li>
              ))}
            </ul>
          </section>
        )}
      </article>
      {errors.length > 0 && (
        <div className="mt-4">
          <Problems problems={errors} />
        </div>
      )}
      {dialog}
    </div>
  );
}
