/** The frame of an open list. */
export const LIST = "z-60 rounded border border-ink bg-paper p-1 text-left text-caption text-ink shadow-lg";

/** An option; the one that the keys or the pointer are at is on a tinted ground. */
export const OPTION =
  "flex cursor-default items-center gap-2 rounded py-1 pl-2 pr-4 outline-none select-none data-highlighted:bg-weft data-disabled:text-faded";

/** A heading over options. */
export const GROUP = "px-2 pb-0.5 pt-1.5 text-caption font-medium text-faded";

/** Whether a key writes a character, as a search does. */
export const writes = ({
  key,
  ctrlKey,
  altKey,
  metaKey,
}: {
  readonly key: string;
  readonly ctrlKey: boolean;
  readonly altKey: boolean;
  readonly metaKey: boolean;
}): boolean => key.length === 1 && key !== " " && !ctrlKey && !altKey && !metaKey;
