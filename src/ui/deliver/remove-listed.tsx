"use client";
import { removeListed } from "@/server/file-actions";
import { ActButton } from "../basic/act";

const SAYS = {
  delivery: (name: string) =>
    `Take the delivery “${name}” out of the file? Its tables and their rows stay; schedules that serve it have to be changed first.`,
  schedules: (name: string) =>
    `Take the schedule “${name}” out of the file? Runs that wait or are under way go on.`,
};

/** Takes a delivery or a schedule out of the file. */
export function RemoveListed({
  pipeline,
  part,
  place,
  name,
}: {
  readonly pipeline: string;
  readonly part: keyof typeof SAYS;
  readonly place: number;
  readonly name: string;
}) {
  return (
    <ActButton
      act={() => removeListed(pipeline, part, place)}
      confirm={SAYS[part](name)}
      done="Taken out of the file."
    >
      Remove
    </ActButton>
  );
}
