import { Popover } from "radix-ui";
import { FAMILY_LOOK } from "./geometry";
import { Mark } from "./thread-line";

const FAMILIES = ["number", "text", "yes/no", "time"] as const;
const MARKS = [
  ["reads", "read"],
  ["writes", "written"],
  ["learns", "learned"],
  ["joins", "joined"],
  ["ends", "ends"],
] as const;
const KEYS = [
  ["← →", "another step"],
  ["↑ ↓", "another column"],
  ["Space", "select or deselect the column"],
  ["Shift ↑ ↓", "extend the selection"],
  ["p", "select columns by name or type"],
  ["Enter", "open the tray"],
  ["i", "add a step here"],
  ["Alt ← →", "move the step"],
  ["o", "turn the step off or on"],
  ["d", "duplicate"],
  ["Delete", "delete"],
  ["n", "name the step"],
  ["Ctrl C, Ctrl V", "copy, paste"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
] as const;

/** What lines, marks and keys mean. */
export function Signs() {
  return (
    <Popover.Root>
      <Popover.Trigger className="press press-quiet px-1.5 py-0.5">Legend</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          className="z-40 grid w-[560px] grid-cols-2 gap-6 rounded border border-ink bg-paper p-4 text-caption"
        >
          <div className="space-y-1">
            {FAMILIES.map((family) => (
              <p key={family} className="flex items-center gap-2">
                <svg width="34" height="8" aria-hidden>
                  <line
                    x1="0"
                    x2="34"
                    y1="4"
                    y2="4"
                    stroke={FAMILY_LOOK[family].stroke}
                    strokeDasharray={FAMILY_LOOK[family].dash}
                    strokeWidth="2.6"
                  />
                </svg>
                {family}
              </p>
            ))}
            <p className="flex items-center gap-2">
              <svg width="34" height="8" aria-hidden>
                <line x1="0" x2="17" y1="4" y2="4" stroke="var(--woad)" strokeWidth="0.9" />
                <line x1="17" x2="34" y1="4" y2="4" stroke="var(--woad)" strokeWidth="3.3" />
              </svg>
              thin: missing values
            </p>
            {MARKS.map(([kind, word]) => (
              <p key={kind} className="flex items-center gap-2">
                <svg width="34" height="22" aria-hidden>
                  <Mark kind={kind} x={17} stroke="var(--woad)" />
                </svg>
                {word}
              </p>
            ))}
          </div>
          <dl className="grid grid-cols-[auto_1fr] content-start gap-x-3 gap-y-1">
            {KEYS.map(([key, what]) => [
              <dt key={key}>
                <kbd className="text-caption">{key}</kbd>
              </dt>,
              <dd key={`${key} does`} className="text-faded">
                {what}
              </dd>,
            ])}
          </dl>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
