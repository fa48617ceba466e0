"use client";
import { useSelect } from "downshift";
import { Check } from "lucide-react";
import { GROUP, LIST, OPTION } from "./list-look";
import { OpenList } from "./open-list";
import { labelOf, type SelectOption } from "./options";
import type { ListProps } from "./select";
import { SelectButton } from "./select-button";

/** A list of a few options; the focus stays on the select, and what is typed finds an option. */
export function ShortSelect(props: ListProps) {
  const { label, value, options, shown, faded, onChange, button, takeButton } = props;
  const chosen = options.find((option) => option.value === value) ?? null;
  const list = useSelect<SelectOption>({
    items: [...options],
    selectedItem: chosen,
    itemToString: (option) => (option ? labelOf(option) : ""),
    isItemDisabled: (option) => option.disabled ?? false,
    onSelectedItemChange: ({ selectedItem }) => {
      if (selectedItem) onChange(selectedItem.value);
    },
  });
  const { ref, ...menu } = list.getMenuProps({ "aria-label": label }, { suppressRefError: true });
  return (
    <>
      <button
        type="button"
        {...list.getToggleButtonProps({
          ...(props.id === undefined ? {} : { id: props.id }),
          ref: takeButton,
          "aria-label": label,
          disabled: props.disabled ?? false,
        })}
        aria-describedby={props.describedBy}
        title={props.title}
        autoFocus={props.autoFocus}
        data-value={value}
        data-state={list.isOpen ? "open" : "closed"}
        className={`field select ${props.className ?? ""}`}
      >
        <SelectButton options={options} shown={shown} faded={faded} />
      </button>
      {list.isOpen && (
        <OpenList
          button={button}
          onClose={list.closeMenu}
          role="presentation"
          className={`${LIST} min-w-(--radix-popover-trigger-width) max-w-[min(32rem,92vw)]`}
          onOpenAutoFocus={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => event.preventDefault()}
          onInteractOutside={(event) => event.preventDefault()}
        >
          <ul
            ref={ref}
            {...menu}
            className="max-h-(--radix-popover-content-available-height) overflow-y-auto outline-none"
          >
            {options.map((option, index) => (
              <Option
                key={option.value}
                option={option}
                heading={option.group === options[index - 1]?.group ? undefined : option.group}
                isChosen={option === chosen}
                isHighlighted={index === list.highlightedIndex}
                item={list.getItemProps({ item: option, index })}
              />
            ))}
          </ul>
        </OpenList>
      )}
    </>
  );
}

function Option({
  option,
  heading,
  isChosen,
  isHighlighted,
  item,
}: {
  readonly option: SelectOption;
  /** The heading above it, where one begins. */
  readonly heading: string | undefined;
  readonly isChosen: boolean;
  readonly isHighlighted: boolean;
  readonly item: object;
}) {
  return (
    <>
      {heading !== undefined && (
        <li role="presentation" className={GROUP}>
          {heading}
        </li>
      )}
      <li
        {...item}
        data-value={option.value}
        data-highlighted={isHighlighted ? "" : undefined}
        data-disabled={option.disabled ? "" : undefined}
        className={OPTION}
      >
        <span className="w-3.5 shrink-0">{isChosen && <Check size={13} aria-hidden />}</span>
        {labelOf(option)}
        {option.mark && <span className="ml-auto pl-4">{option.mark}</span>}
      </li>
    </>
  );
}
