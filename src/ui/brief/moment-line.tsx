"use client";
import { useDesk } from "../draft/draft-context";
import { columnsAt, lengthOf, mainGroup } from "../braid/places";
import { BriefLine } from "./brief-line";
import { TypedLine } from "./typed-line";
import { useBrief } from "./use-brief";
import { Select } from "../select/select";

/** When the prediction is made: in words, and the column that has that time. */
export function MomentLine() {
  const { text, put } = useBrief();
  const { braid } = useDesk();
  const main = braid && mainGroup(braid);
  const times =
    braid && main
      ? columnsAt(braid, { strand: main.strand, after: lengthOf(braid, main.strand) })
          .filter(({ family }) => family === "time")
          .map(({ name }) => name)
      : [];
  const column = text("moment", "column");
  const putWords = (when: string): void =>
    put(["moment"], when === "" ? "" : { when, ...(column === "" ? {} : { column }) });
  return (
    <BriefLine label="Time of prediction">
      <TypedLine
        label="Time of prediction, in words"
        value={text("moment", "when")}
        onChange={putWords}
        placeholder="for example: the evening of the delivery day"
      />
      {text("moment", "when") !== "" && (
        <label className="flex items-center gap-2 font-sans text-caption text-faded">
          column with that time{" "}
          <Select
            label="column with that time"
            className="py-0.5"
            value={column}
            options={[
              { value: "", label: "none" },
              ...new Set([...times, ...(column === "" ? [] : [column])]),
            ]}
            onChange={(name) => put(["moment", "column"], name)}
          />
        </label>
      )}
    </BriefLine>
  );
}
