"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm } from "react-hook-form";
import { z } from "zod";
import { scoreOnDemand } from "@/server/operating-actions";
import { PageLink } from "../basic/page-link";
import { TextField } from "../basic/text-field";
import { useSave } from "../basic/use-save";
import { FieldSelect } from "../select/field-select";

interface Props {
  readonly pipeline: string;
  readonly disabled: boolean;
  /** The source of the main strand, whose columns a table has to have. */
  readonly like: string;
  readonly tables: readonly string[];
  /** Columns that are there after the last step, those of the key left out. */
  readonly columns: readonly string[];
}

const onDemandValues = z.object({
  table: z.string().min(1),
  into: z.string().trim(),
  allUnseen: z.boolean(),
  // One box alone gives its value or false, several give a list.
  columns: z.preprocess((given) => (given === false ? [] : [given].flat()), z.array(z.string())),
});

type OnDemandValues = z.infer<typeof onDemandValues>;

/** Scores a table chosen now into a table of its own. */
export function OnDemandPanel({ pipeline, disabled, like, tables, columns }: Props) {
  const { register, control, handleSubmit, watch, formState } = useForm<OnDemandValues>({
    resolver: zodResolver(onDemandValues) as never,
    defaultValues: { table: "", into: "", allUnseen: false, columns: [] },
  });
  const isChosen = watch("table") !== "";
  const [busy, save] = useSave(
    ({ allUnseen, ...values }: OnDemandValues) =>
      scoreOnDemand({ pipeline, ...values, allUnseen: allUnseen ? "warn" : "stop" }),
    { goTo: (run) => `/runs/${String(run)}` },
  );
  return (
    <section aria-label="On demand" className="mt-8">
      <h2>On demand</h2>
      <p className="text-caption text-faded">
        Scores all rows of a table you choose. The table needs the columns of {like} from which the features
        are computed, with the same types; if it has the target too, the run reports which predictions are
        right. Predictions are written to a new table, which can be viewed and downloaded. To score a file,{" "}
        <PageLink href="/tables/import">import it</PageLink> first. For a single row, use <i>Try a row</i>.
      </p>
      <form onSubmit={(event) => void handleSubmit(save)(event)}>
        <div className="mt-2 flex flex-wrap items-start gap-3">
          <div className="text-caption">
            Rows of
            <FieldSelect
              control={control}
              name="table"
              label="Rows of"
              className="mt-0.5 min-w-56 text-body"
              placeholder="choose a table"
              options={tables}
            />
          </div>
          <TextField
            label="Into"
            className="w-72"
            placeholder="a new table, named by time"
            error={formState.errors.into}
            {...register("into")}
          />
          <button
            type="submit"
            className="press mt-5"
            disabled={disabled || busy || !isChosen}
            aria-busy={busy}
          >
            Score these rows
          </button>
        </div>
        {isChosen && (
          <label className="mt-2 flex items-center gap-1.5 text-caption">
            <input type="checkbox" {...register("allUnseen")} />
            Score even if all values of a column are unseen
          </label>
        )}
        {isChosen && columns.length > 0 && (
          <fieldset className="mt-2 text-caption">
            <legend className="text-faded">Passed through with the key</legend>
            <div className="flex flex-wrap gap-x-4 gap-y-1">
              {columns.map((name) => (
                <label key={name} className="flex items-center gap-1.5">
                  <input type="checkbox" value={name} {...register("columns")} />
                  {name}
                </label>
              ))}
            </div>
          </fieldset>
        )}
      </form>
    </section>
  );
}
