"use client";
import { Command } from "cmdk";
import { useRouter } from "next/navigation";
import { useOffered } from "./offered-actions";

export interface Destination {
  readonly group: string;
  readonly name: string;
  readonly href: string;
}

const GROUP = "text-xs text-faded [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:py-1";
const ITEM = "cursor-pointer rounded px-2 py-1.5 text-sm text-ink data-[selected=true]:bg-weft";

/** Ctrl+K: everything that has a name, found by typing. */
export function CommandBox({
  open,
  onOpenChange,
  destinations,
}: {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  readonly destinations: readonly Destination[];
}) {
  const router = useRouter();
  const actions = useOffered();
  const groups = [...new Set(destinations.map((each) => each.group))];
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Go to or do"
      className="fixed left-1/2 top-24 z-50 w-[560px] -translate-x-1/2 rounded border border-ink bg-paper shadow-lg"
      overlayClassName="fixed inset-0 z-40 bg-ink/25"
    >
      <Command.Input
        placeholder="A table, a pipeline, a page"
        className="w-full border-b border-rule bg-transparent px-4 py-3 outline-none"
      />
      <Command.List className="max-h-96 overflow-y-auto p-2">
        <Command.Empty className="px-3 py-6 text-center text-faded">Nothing has that name.</Command.Empty>
        {actions.length > 0 && (
          <Command.Group heading="Here" className={GROUP}>
            {actions.map((each) => (
              <Command.Item
                key={each.name}
                value={`here ${each.name}`}
                onSelect={() => {
                  onOpenChange(false);
                  each.act();
                }}
                className={ITEM}
              >
                {each.name}
                {each.key && <kbd className="float-right text-xs text-faded">{each.key}</kbd>}
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {groups.map((group) => (
          <Command.Group key={group} heading={group} className={GROUP}>
            {destinations
              .filter((each) => each.group === group)
              .map((each) => (
                <Command.Item
                  key={each.href + each.name}
                  value={`${group} ${each.name}`}
                  onSelect={() => {
                    onOpenChange(false);
                    router.push(each.href);
                  }}
                  className={ITEM}
                >
                  {each.name}
                </Command.Item>
              ))}
          </Command.Group>
        ))}
      </Command.List>
    </Command.Dialog>
  );
}
