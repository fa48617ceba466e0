"use client";
import { Popover } from "radix-ui";
import { useState } from "react";
import { LIST, writes } from "./list-look";
import { SearchedList } from "./searched-list";
import type { ListProps } from "./select";
import { SelectButton } from "./select-button";

/** A list of many options with a search. What is typed on the closed select begins the search. */
export function LongSelect(props: ListProps) {
  const { label, value, options, shown, faded, onChange, findContainer } = props;
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const show = (wanted: boolean): void => {
    setTyped("");
    setOpen(wanted);
  };
  return (
    <Popover.Root open={open} onOpenChange={show}>
      <Popover.Trigger
        ref={props.buttonRef}
        id={props.id}
        role="combobox"
        type="button"
        aria-haspopup="listbox"
        aria-label={label}
        aria-describedby={props.describedBy}
        title={props.title}
        autoFocus={props.autoFocus}
        disabled={props.disabled}
        data-value={value}
        className={`field select ${props.className ?? ""}`}
        onKeyDown={(event) => {
          if (event.key !== "ArrowDown" && event.key !== "ArrowUp" && !writes(event)) return;
          event.preventDefault();
          if (writes(event)) setTyped(event.key);
          setOpen(true);
        }}
      >
        <SelectButton options={options} shown={shown} faded={faded} />
      </Popover.Trigger>
      <Popover.Portal container={open ? findContainer() : null}>
        <Popover.Content
          align="start"
          sideOffset={3}
          aria-label={label}
          className={`${LIST} w-[max(var(--radix-popover-trigger-width),20rem)] max-w-[92vw]`}
          onKeyDown={(event) => event.stopPropagation()}
        >
          <SearchedList
            label={label}
            value={value}
            options={options}
            typed={typed}
            onChoose={(chosen) => {
              show(false);
              onChange(chosen);
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
