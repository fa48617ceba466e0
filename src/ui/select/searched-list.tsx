"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useCombobox } from "downshift";
import { Check } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { formatCount } from "@/core/format/numbers";
import { OPTION } from "./list-look";
import { findOptions, labelOf, type SelectOption } from "./options";

/** Height of an option, in pixels. */
const ROW = 28;

/** A search over a list of which only what is in view is drawn. */
export function SearchedList({
  label,
  value,
  options,
  typed,
  onChoose,
}: {
  readonly label: string;
  readonly value: string;
  readonly options: readonly SelectOption[];
  /** What the search begins with. */
  readonly typed: string;
  readonly onChoose: (value: string) => void;
}) {
  const [words, setWords] = useState(typed);
  const found = useMemo(() => [...findOptions(options, words)], [options, words]);
  const list = useRef<HTMLUListElement>(null);
  const rows = useVirtualizer({
    count: found.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const at = found.findIndex((option) => option.value === value);
  const { getInputProps, getMenuProps, getItemProps, highlightedIndex } = useCombobox<SelectOption>({
    items: found,
    isOpen: true,
    inputValue: words,
    initialHighlightedIndex: Math.max(0, at),
    defaultHighlightedIndex: 0,
    itemToString: (option) => (option ? labelOf(option) : ""),
    isItemDisabled: (option) => option.disabled ?? false,
    scrollIntoView: () => undefined,
    onHighlightedIndexChange: ({ highlightedIndex: index }) => {
      if (index >= 0 && index < found.length) rows.scrollToIndex(index);
    },
    onSelectedItemChange: ({ selectedItem }) => {
      if (selectedItem) onChoose(selectedItem.value);
    },
  });
  return (
    <>
      <input
        {...getInputProps({
          "aria-label": `Search ${label}`,
          onChange: (event) => setWords(event.currentTarget.value),
        })}
        autoFocus
        placeholder={`search ${formatCount(options.length, "option")}`}
        className="field mb-1 w-full"
      />
      <ul {...getMenuProps({ ref: list, "aria-label": label })} className="relative max-h-72 overflow-y-auto">
        <li role="presentation" style={{ height: rows.getTotalSize() }} />
        {rows.getVirtualItems().map(({ index, start }) => {
          const option = found[index]!;
          return (
            <li
              key={option.value}
              {...getItemProps({ item: option, index })}
              aria-setsize={found.length}
              aria-posinset={index + 1}
              data-value={option.value}
              data-highlighted={index === highlightedIndex ? "" : undefined}
              data-disabled={option.disabled ? "" : undefined}
              className={`${OPTION} absolute inset-x-0 top-0`}
              style={{ height: ROW, transform: `translateY(${start}px)` }}
            >
              <span className="w-3.5 shrink-0">
                {option.value === value && <Check size={13} aria-hidden />}
              </span>
              <span className="truncate" title={labelOf(option)}>
                {labelOf(option)}
              </span>
              {option.mark && <span className="ml-auto shrink-0 pl-3">{option.mark}</span>}
              {option.group !== undefined && (
                <span className="ml-auto shrink-0 text-caption text-faded">{option.group}</span>
              )}
            </li>
          );
        })}
      </ul>
      <p role="status" className="px-2 py-1 text-faded empty:hidden">
        {found.length === 0 ? "No matches." : ""}
      </p>
    </>
  );
}
