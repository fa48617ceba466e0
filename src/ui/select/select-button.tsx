import { ChevronDown } from "lucide-react";
import { labelOf, type SelectOption } from "./options";

/**
 * What a closed select shows. Its width is that of its longest option, so that nothing moves when another is chosen.
 */
export function SelectButton({
  options,
  shown,
  faded,
}: {
  readonly options: readonly SelectOption[];
  readonly shown: string;
  /** Whether nothing is chosen yet. */
  readonly faded: boolean;
}) {
  const longest = options.reduce(
    (longer, option) => (labelOf(option).length > longer.length ? labelOf(option) : longer),
    shown,
  );
  return (
    <>
      <span
        data-longest={longest}
        className={`select-button min-w-0 flex-1 text-left ${faded ? "text-faded" : ""}`}
      >
        <span className="block truncate">{shown}</span>
      </span>
      <ChevronDown size={14} aria-hidden className="shrink-0 text-faded" />
    </>
  );
}
