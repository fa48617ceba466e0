"use client";
import { useId, useState } from "react";
import { LIST, writes } from "./list-look";
import { OpenList } from "./open-list";
import { SearchedList } from "./searched-list";
import type { ListProps } from "./select";
import { SelectButton } from "./select-button";

/** A list of many options with a search. What is typed on the closed select begins the search. */
export function LongSelect(props: ListProps) {
  const { label, value, options, shown, faded, onChange, button, takeButton } = props;
  const list = useId();
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const show = (wanted: boolean): void => {
    setTyped("");
    setOpen(wanted);
  };
  return (
    <>
      <button
        ref={takeButton}
        id={props.id}
        role="combobox"
        type="button"
        aria-haspopup="listbox"
        aria-expanded={open}
        aria-controls={open ? list : undefined}
        aria-label={label}
        aria-describedby={props.describedBy}
        title={props.title}
        autoFocus={props.autoFocus}
        disabled={props.disabled}
        data-value={value}
        data-state={open ? "open" : "closed"}
        className={`field select ${props.className ?? ""}`}
        onClick={() => show(!open)}
        onKeyDown={(event) => {
          if (event.key !== "ArrowDown" && event.key !== "ArrowUp" && !writes(event)) return;
          event.preventDefault();
          if (writes(event)) setTyped(event.key);
          setOpen(true);
        }}
      >
        <SelectButton options={options} shown={shown} faded={faded} />
      </button>
      {open && (
        <OpenList
          button={button}
          onClose={() => show(false)}
          id={list}
          aria-label={label}
          className={`${LIST} w-[max(var(--radix-popover-trigger-width),20rem)] max-w-[92vw]`}
          onKeyDown={(event) => event.stopPropagation()}
          onInteractOutside={(event) => {
            // A click on the select closes the list by itself.
            if (button.current?.contains(event.target as Node)) event.preventDefault();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            // Whoever clicked another field is there already.
            if (document.activeElement === document.body) button.current?.focus();
          }}
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
        </OpenList>
      )}
    </>
  );
}
