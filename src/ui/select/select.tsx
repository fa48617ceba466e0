"use client";
import { useRef, type Ref, type RefObject } from "react";
import { LongSelect } from "./long-select";
import { fullOptions, labelOf, MOST_WITHOUT_SEARCH, type GivenOption, type SelectOption } from "./options";
import { ShortSelect } from "./short-select";

interface Props<Value extends string> {
  /** What is chosen, for who does not see it. */
  readonly label: string;
  readonly value: Value | "";
  readonly options: readonly GivenOption<Value>[];
  readonly onChange: (value: Value) => void;
  /** Shown while the value is empty; it cannot be chosen. */
  readonly placeholder?: string;
  readonly id?: string;
  readonly className?: string;
  readonly disabled?: boolean;
  readonly autoFocus?: boolean;
  readonly describedBy?: string | undefined;
  readonly title?: string | undefined;
  readonly buttonRef?: Ref<HTMLButtonElement>;
}

/** What both kinds of lists need. */
export interface ListProps extends Omit<Props<string>, "options" | "placeholder" | "buttonRef"> {
  readonly options: readonly SelectOption[];
  /** The value as the closed select shows it. */
  readonly shown: string;
  readonly faded: boolean;
  readonly button: RefObject<HTMLButtonElement | null>;
  /** Takes the button when it is there. */
  readonly takeButton: (button: HTMLButtonElement | null) => void;
}

/** One of several. A few are a plain list in which typing finds; many can be searched and are drawn as they come into view. */
export function Select<Value extends string>({
  options: given,
  placeholder = "choose …",
  buttonRef,
  onChange,
  ...rest
}: Props<Value>) {
  const button = useRef<HTMLButtonElement>(null);
  const options = fullOptions<string>(given);
  const chosen = options.find(({ value }) => value === rest.value);
  const List = options.length > MOST_WITHOUT_SEARCH ? LongSelect : ShortSelect;
  const takeButton = (element: HTMLButtonElement | null): void => {
    button.current = element;
    if (typeof buttonRef === "function") buttonRef(element);
    else if (buttonRef) buttonRef.current = element;
  };
  return (
    <List
      {...rest}
      button={button}
      takeButton={takeButton}
      options={options}
      shown={chosen ? labelOf(chosen) : rest.value || placeholder}
      faded={!chosen && rest.value === ""}
      onChange={(value) => onChange(value as Value)}
    />
  );
}
