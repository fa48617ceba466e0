"use client";
import { Trash2 } from "lucide-react";
import { removeListed } from "@/server/file-actions";
import { ActButton } from "../basic/act";

const SAYS = {
  delivery: (name: string) =>
    `Remove the delivery “${name}” from the file? Its tables and rows stay; change schedules that use it first.`,
  schedules: (name: string) =>
    `Remove the schedule “${name}” from the file? Waiting and running runs continue.`,
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
      icon={Trash2}
      act={() => removeListed(pipeline, part, place)}
      confirm={SAYS[part](name)}
      done="Removed from the file."
    >
      Remove
    </ActButton>
  );
}
