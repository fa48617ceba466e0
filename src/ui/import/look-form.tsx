"use client";
import { valueNotes } from "@/core/files/value-notes";
import { formatNumber } from "@/core/format/numbers";
import { Problems } from "../basic/problems";
import { LookColumns } from "./look-columns";
import { LookFormat } from "./look-format";
import { BrokenRows, RejectList } from "./look-rejects";
import { LookTarget } from "./look-target";
import { useLookForm, type LookFormProps } from "./use-look-form";

/** What was found in a file, to be corrected, and where it goes. */
export function LookForm(props: LookFormProps) {
  const { row, look, importSchema, known } = props;
  const control = useLookForm(props);
  const { choices, misfits } = control;
  const rejected = choices.misfits === "reject" ? Math.min(look.rows, misfits - look.broken) : 0;
  return (
    <div data-testid="look">
      {look.notes.map((note) => (
        <p key={note} className="mb-2 text-madder">
          {note}
        </p>
      ))}
      <LookFormat look={look} control={control} />
      <LookColumns look={look} control={control} />
      <BrokenRows count={look.broken} rows={look.brokenRows} />
      <LookTarget control={control} importSchema={importSchema} known={known} rows={look.rows - rejected} />
      {valueNotes(look, choices).map((note) => (
        <p key={note} className="mt-2 text-caption">
          {note}
        </p>
      ))}
      {misfits > 0 && (
        <p className="mt-2 text-caption text-madder">
          {formatNumber(misfits)} row{misfits === 1 ? " does" : "s do"} not fit
          {choices.misfits === "stop" ? "; the load will stop and list them." : " and will be rejected."}
        </p>
      )}
      {row.state !== "looked" && row.problems.length > 0 && (
        <div className="mt-4">
          <Problems lines problems={row.problems} />
        </div>
      )}
      {row.misfits.length > 0 && <RejectList rejects={row.misfits} label="Invalid rows" />}
    </div>
  );
}
