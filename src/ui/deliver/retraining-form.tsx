"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { Controller, useForm } from "react-hook-form";
import { z } from "zod";
import { useState } from "react";
import { toast } from "sonner";
import { metricsFor } from "@/core/evaluate/metrics";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Retraining } from "@/core/pipeline/operating-schema";
import type { Problem } from "@/core/problem";
import { saveParts } from "@/server/file-actions";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { usePageRefresh } from "../basic/page-refresh";
import { FieldSelect } from "../select/field-select";
import { MetricSelect } from "../select/metric-select";
import { labelledOptions } from "../select/options";

interface Props {
  readonly pipeline: string;
  readonly target: PipelineFile["roles"]["target"]["kind"];
  readonly retraining: Retraining | undefined;
  /** Roles that may ask the functions; undefined when none are published. */
  readonly functions: readonly string[] | undefined;
}

const RULES: Readonly<Record<Retraining["rule"], string>> = {
  never: "stays a candidate until you decide",
  when_better: "is put in service if better",
  always: "is always put in service",
};

const retrainingValues = z.object({
  rule: z.enum(["never", "when_better", "always"]),
  metric: z.string(),
  margin: z.string().refine((text) => text.trim() !== "" && !Number.isNaN(Number(text)), "Enter a number."),
  isPublished: z.boolean(),
  roles: z.string(),
});

type RetrainingValues = z.infer<typeof retrainingValues>;

/** The parts of the file as a form has them. */
function partsOf({ rule, metric, margin, isPublished, roles }: RetrainingValues) {
  const named = roles
    .split(",")
    .map((role) => role.trim())
    .filter((role) => role !== "");
  const details = {
    ...(metric === "" ? {} : { metric }),
    ...(rule === "when_better" && Number(margin) !== 0 ? { margin: Number(margin) } : {}),
  };
  const published = named.length > 0 ? { grant_to: named } : {};
  return {
    retraining: rule === "never" ? null : { rule, ...details },
    functions: isPublished ? published : null,
  };
}

/** What becomes of a version that a schedule has trained, and whether the one in service can be asked in SQL. */
export function RetrainingForm({ pipeline, target, retraining, functions }: Props) {
  const refresh = usePageRefresh();
  const { register, control, handleSubmit, watch, formState } = useForm<RetrainingValues>({
    resolver: zodResolver(retrainingValues),
    defaultValues: {
      rule: retraining?.rule ?? "never",
      metric: retraining?.metric ?? "",
      margin: String(retraining?.margin ?? 0),
      isPublished: functions !== undefined,
      roles: (functions ?? []).join(", "),
    },
    mode: "onChange",
  });
  const [rule, isPublished] = watch(["rule", "isPublished"]);
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const save = async (values: RetrainingValues): Promise<void> => {
    const outcome = await ask(() =>
      saveParts({ pipeline, note: "retraining rule and functions changed", parts: partsOf(values) }),
    );
    if (!outcome.ok) return setProblems(outcome.problems);
    setProblems([]);
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    refresh();
  };
  return (
    <form aria-label="Retraining" className="mt-3" onSubmit={(event) => void handleSubmit(save)(event)}>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <label className="flex items-center gap-2">
          A version trained by a schedule{" "}
          <FieldSelect
            control={control}
            name="rule"
            label="A version trained by a schedule"
            options={labelledOptions(RULES)}
          />
        </label>
        {rule === "when_better" && (
          <label className="flex items-center gap-2">
            by{" "}
            <input
              aria-label="Margin"
              className="field figure w-20"
              aria-invalid={formState.errors.margin !== undefined}
              {...register("margin")}
            />{" "}
            of{" "}
            <Controller
              control={control}
              name="metric"
              render={({ field: { value, onChange } }) => (
                <MetricSelect
                  label="Metric of the margin"
                  value={value}
                  metrics={metricsFor(target)}
                  empty="the brief’s metric"
                  onChange={onChange}
                />
              )}
            />
            <span role="status" className="text-madder">
              {formState.errors.margin?.message}
            </span>
          </label>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-2">
        <label className="flex items-center gap-2">
          <input type="checkbox" {...register("isPublished")} />
          publish the version in service as SQL functions in the warehouse
        </label>
        {isPublished && (
          <label className="flex items-center gap-2">
            for the roles{" "}
            <input
              aria-label="Roles that may call them"
              className="field w-48"
              placeholder="such as analysts, night_desk"
              {...register("roles")}
            />
          </label>
        )}
        <button type="submit" className="press" disabled={busy || !formState.isDirty || !formState.isValid}>
          Save
        </button>
      </div>
      {problems.length > 0 && (
        <div className="mt-2">
          <Problems problems={problems} />
        </div>
      )}
    </form>
  );
}
