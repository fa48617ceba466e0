import { Popover } from "radix-ui";
import type { ComponentProps, RefObject } from "react";

interface Props extends ComponentProps<typeof Popover.Content> {
  /** The select that it belongs to. */
  readonly button: RefObject<HTMLButtonElement | null>;
  readonly onClose: () => void;
}

/** An open list at its select. It exists only while it is open, since a page may have dozens of selects. */
export function OpenList({ button, onClose, ...content }: Props) {
  return (
    <Popover.Root open onOpenChange={onClose}>
      <Popover.Anchor virtualRef={button as RefObject<HTMLButtonElement>} />
      <Popover.Portal container={containerOf(button.current)}>
        <Popover.Content align="start" sideOffset={3} {...content} />
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Where a list belongs: the dialog that its select is in, or the page. */
const containerOf = (button: HTMLButtonElement | null): HTMLElement | null =>
  button?.closest<HTMLElement>('[role="dialog"], [role="alertdialog"]') ?? document.getElementById("main");
