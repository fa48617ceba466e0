"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { startBackfill } from "@/server/operating-actions";
import { useOwnName } from "../basic/own-name";
import { TextField } from "../basic/text-field";
import { useSave } from "../basic/use-save";
import { FieldSelect } from "../select/field-select";

/** Runs that a backfill has in parallel at most. */
const MOST_PARALLEL = 8;

const backfillValues = z
  .object({
    delivery: z.string().min(1),
    from: z.iso.date("Enter a date."),
    until: z.iso.date("Enter a date."),
    parallel: z.int().min(1, "At least 1.").max(MOST_PARALLEL, `At most ${MOST_PARALLEL}.`),
  })
  .refine(({ from, until }) => from <= until, {
    path: ["until"],
    error: "The end must not be before the start.",
  });

type BackfillValues = z.infer<typeof backfillValues>;

interface Props {
  readonly pipeline: string;
  readonly deliveries: readonly string[];
  /** The present day of the application's clock, as 2026-06-30. */
  readonly today: string;
  readonly disabled: boolean;
}

/** The day some days before another, both as 2026-06-30. */
const daysBefore = (day: string, days: number): string =>
  new Date(Date.parse(day) - days * 86_400_000).toISOString().slice(0, 10);

/** Which logical times are to be caught up, and how many at a time. */
export function BackfillForm({ pipeline, deliveries, today, disabled }: Props) {
  const [by] = useOwnName();
  const { register, control, handleSubmit, formState } = useForm<BackfillValues>({
    resolver: zodResolver(backfillValues),
    defaultValues: {
      delivery: deliveries[0] ?? "",
      from: daysBefore(today, 30),
      until: daysBefore(today, 1),
      parallel: 2,
    },
  });
  const { errors } = formState;
  const [busy, save] = useSave((values: BackfillValues) => startBackfill({ pipeline, ...values, by }), {
    done: "Backfill started.",
  });
  return (
    <form
      className="mt-2 flex flex-wrap items-start gap-3"
      onSubmit={(event) => void handleSubmit(save)(event)}
    >
      {deliveries.length > 1 && (
        <div className="text-caption">
          Delivery
          <FieldSelect
            control={control}
            name="delivery"
            label="Delivery"
            className="mt-0.5 block text-body"
            options={deliveries}
          />
        </div>
      )}
      <TextField label="From" type="date" max={today} error={errors.from} {...register("from")} />
      <TextField label="Through" type="date" max={today} error={errors.until} {...register("until")} />
      <TextField
        label="In parallel"
        type="number"
        className="w-20"
        error={errors.parallel}
        {...register("parallel", { valueAsNumber: true })}
      />
      <button type="submit" className="press mt-5" disabled={disabled || busy} aria-busy={busy}>
        Start backfill
      </button>
    </form>
  );
}
