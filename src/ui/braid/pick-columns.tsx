"use client";
import { useRef, useState } from "react";
import { ListChecks } from "lucide-react";
import { Popover } from "radix-ui";
import { formatCount } from "@/core/format/numbers";
import { someOf } from "@/core/format/some-names";
import { matching, type PickRule } from "./pick-many";
import type { ColumnHere } from "./places";
import { Select } from "../select/select";

const FAMILIES = ["number", "text", "yes/no", "time"] as const;
/** Names that are listed. */
const FEW = 8;
const NOTHING: PickRule = { typed: "", family: "any" };

/** Picks many columns at once: by parts of their names, by type, or all but those. */
export function PickColumns({
  columns,
  open,
  onOpenChange,
  onPick,
}: {
  /** Columns at the place where steps are added. */
  readonly columns: readonly ColumnHere[];
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  readonly onPick: (columns: readonly ColumnHere[]) => void;
}) {
  const [rule, setRule] = useState<PickRule>(NOTHING);
  const found = matching(columns, rule);
  const others = columns.filter((column) => !found.includes(column));
  const picked = useRef(false);
  const pick = (wanted: readonly ColumnHere[]): void => {
    picked.current = true;
    onPick(wanted);
    setRule(NOTHING);
    onOpenChange(false);
  };
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger className="press press-quiet px-1.5 py-0.5" aria-keyshortcuts="p">
        <ListChecks size={15} aria-hidden />
        Select columns
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          aria-label="Select columns"
          onCloseAutoFocus={(event) => {
            if (!picked.current) return;
            picked.current = false;
            // What is done next stands below the drawing.
            event.preventDefault();
            document.querySelector<HTMLElement>('[data-testid="verbs"] button')?.focus();
          }}
          className="z-40 w-[420px] rounded border border-ink bg-paper p-4 text-caption shadow-lg"
        >
          <form
            onSubmit={(event) => {
              event.preventDefault();
              if (found.length > 0) pick(found);
            }}
          >
            <div className="flex gap-3">
              <label className="flex-1 text-faded">
                name contains
                <input
                  autoFocus
                  className="field mt-0.5 w-full text-ink"
                  value={rule.typed}
                  onChange={(event) => setRule({ ...rule, typed: event.target.value })}
                />
              </label>
              <label className="text-faded">
                type
                <Select
                  label="type"
                  className="mt-0.5 text-ink"
                  value={rule.family}
                  options={["any", ...FAMILIES]}
                  onChange={(family) => setRule({ ...rule, family })}
                />
              </label>
            </div>
            <p role="status" className="mt-2 min-h-10 break-words text-faded">
              {found.length === 0
                ? `${formatCount(columns.length, "column")} match. Separate several parts of names with spaces.`
                : someOf(
                    found.map(({ name }) => name),
                    FEW,
                  )}
            </p>
            <div className="mt-2 flex gap-2">
              <button type="submit" className="press press-main py-0.5" disabled={found.length === 0}>
                Select {formatCount(found.length, "column")}
              </button>
              <button
                type="button"
                className="press py-0.5"
                disabled={found.length === 0 || others.length === 0}
                onClick={() => pick(others)}
              >
                All except these: {others.length}
              </button>
            </div>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
