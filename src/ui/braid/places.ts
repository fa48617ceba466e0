import type { StepPlace } from "@/core/pipeline/edit/steps";
import type { Braid, BraidGroup, Thread } from "@/core/plan/braid";
import type { Family } from "@/core/value-type";

/** A column as it is at one place of a strand. */
export interface ColumnHere {
  readonly name: string;
  readonly type: string;
  readonly family: Family;
  /** Stands for several indicator columns, and cannot be named in expressions. */
  readonly bundle: boolean;
  readonly thread: string;
}

/** A place between steps: so many steps of a strand are behind it. */
export interface Place {
  readonly strand: string;
  readonly after: number;
}

/** A place in an address. */
export const placeKey = (place: Place): string => `${place.strand}:${place.after}`;

/** The place right behind every drawn step, as the text has it by now; undefined for a step that is no longer there. */
export const placesNow = (
  braid: Braid | undefined,
  now: (place: StepPlace) => StepPlace | undefined,
): readonly (string | undefined)[] =>
  (braid?.crossings ?? []).map(({ strand, strandIndex, position }) => {
    const found = now({ strand: strandIndex, position });
    return found && placeKey({ strand, after: found.position + 1 });
  });

/**
 * A place read off a drawing, as it is in the text that has grown since.
 * @param added places of that drawing at which steps were added since it was made
 * @param selected the place in the address, which is of the text as it is
 */
export function placeNow(place: Place, added: readonly Place[], selected: string | null): Place {
  if (placeKey(place) === selected) return place;
  return {
    ...place,
    after:
      place.after +
      added.filter((onePlace) => onePlace.strand === place.strand && onePlace.after <= place.after).length,
  };
}

/** Columns of a strand after some of its steps. */
export function columnsAt(braid: Braid, place: Place): readonly ColumnHere[] {
  return braid.groups
    .flatMap((group) => group.threads)
    .flatMap((thread) => {
      const stretch = thread.stretches.find(
        (stretch) => stretch.strand === place.strand && stretch.after === place.after,
      );
      return stretch
        ? [
            {
              name: stretch.column,
              type: stretch.type,
              family: stretch.family,
              bundle: stretch.type === "one-hot columns",
              thread: thread.id,
            },
          ]
        : [];
    });
}

/** How many steps a strand has. */
export const lengthOf = (braid: Braid, strand: string): number =>
  braid.crossings.filter((crossing) => crossing.strand === strand).length;

export const mainGroup = (braid: Braid): BraidGroup | undefined => braid.groups.find((group) => group.main);

/**
 * Where a step about the picked threads belongs: right after the selected step when all of them are there, else at the
 * end of the strand in which they end. Undefined when they never meet.
 */
export function placeFor(
  braid: Braid,
  picked: readonly Thread[],
  selected: Place | undefined,
): { readonly place: Place; readonly names: readonly string[] } | undefined {
  const namesAt = (place: Place): readonly string[] | undefined => {
    const here = columnsAt(braid, place);
    const names = picked.flatMap((thread) => here.find((column) => column.thread === thread.id)?.name ?? []);
    return names.length === picked.length ? names : undefined;
  };
  const candidates = [
    ...(selected ? [selected] : []),
    ...[
      ...picked.flatMap((thread) => thread.stretches.at(-1) ?? []),
      ...picked.flatMap((thread) => thread.stretches[0] ?? []),
    ].map((stretch) => ({ strand: stretch.strand, after: stretch.after })),
  ];
  for (const place of candidates) {
    const names = namesAt(place);
    if (names) return { place, names };
  }
  return undefined;
}
