"use client";
import { Command } from "cmdk";
import { usePathname, useRouter } from "next/navigation";
import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import { toast } from "sonner";
import { bestFits } from "@/core/find/rank";
import { startRun } from "@/server/actions";
import type { Finding } from "@/server/find";
import { tellProblems } from "../basic/tell-problems";
import { askForChange } from "../basic/use-action";
import { useRead } from "../queries/use-read";
import { useOffered, type OfferedAction } from "./offered-actions";

const GROUP = "text-caption text-faded [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:py-1";
const ITEM = "cursor-pointer rounded px-2 py-1.5 text-caption text-ink data-[selected=true]:bg-weft";
const MOST_HERE = 8;

/** Ctrl+K: everything that has a name, found by typing, and what can be done here. */
export function CommandBox({
  open,
  onOpenChange,
}: {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
}) {
  const [selected, setSelected] = useState("");
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Search or run a command"
      shouldFilter={false}
      value={selected}
      onValueChange={setSelected}
      className="fixed left-1/2 top-24 z-50 w-[560px] -translate-x-1/2 rounded border border-ink bg-paper shadow-lg"
      overlayClassName="fixed inset-0 z-40 bg-ink/25"
    >
      <Finder close={() => onOpenChange(false)} select={setSelected} />
    </Command.Dialog>
  );
}

const keyOf = ({ group, name, href }: Finding): string => `${group} ${name} ${href}`;
const keyOfAction = ({ name }: OfferedAction): string => `here ${name}`;

function Finder({
  close,
  select,
}: {
  readonly close: () => void;
  /** Marks an entry as the one that Enter takes. */
  readonly select: (key: string) => void;
}) {
  const router = useRouter();
  const [typed, setTyped] = useState("");
  // Enter counts for what was typed, also when it is pressed before that was found.
  const entered = useRef(false);
  const [shown, setShown] = useState<readonly Finding[]>([]);
  const { value, failure } = useRead<readonly Finding[]>(`/api/find?text=${encodeURIComponent(typed)}`);
  const training = useTraining(typed);
  const here = [...bestFits(useOffered(), typed, MOST_HERE), ...training];
  const go = ({ href }: Finding): void => {
    close();
    router.push(href);
  };
  const act = (action: OfferedAction): void => {
    close();
    action.act();
  };
  const latest = useRef({ here, go, act, select });
  latest.current = { here, go, act, select };
  useEffect(() => {
    if (!value) return;
    setShown(value);
    const now = latest.current;
    const [[action], [finding]] = [now.here, value];
    if (action) now.select(keyOfAction(action));
    else if (finding) now.select(keyOf(finding));
    if (!entered.current) return;
    entered.current = false;
    if (action) now.act(action);
    else if (finding) now.go(finding);
  }, [value]);
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key !== "Enter" || value || failure) return;
    event.preventDefault();
    event.stopPropagation();
    entered.current = true;
  };
  const groups = [...new Set(shown.map(({ group }) => group))];
  return (
    <>
      <Command.Input
        value={typed}
        onValueChange={setTyped}
        onKeyDown={onKeyDown}
        placeholder="Search tables, pipelines, pages"
        className="w-full border-b border-rule bg-transparent px-4 py-3 outline-none"
      />
      <Command.List className="max-h-96 overflow-y-auto p-2">
        {failure && <p className="px-3 py-2 text-caption text-madder">{failure}</p>}
        {value?.length === 0 && here.length === 0 && (
          <p className="px-3 py-6 text-center text-faded">No results</p>
        )}
        {here.length > 0 && (
          <Command.Group heading="Here" className={GROUP}>
            {here.map((action) => (
              <Command.Item
                key={action.name}
                value={keyOfAction(action)}
                onSelect={() => act(action)}
                className={ITEM}
              >
                {action.name}
                {action.key && <kbd className="float-right text-caption text-faded">{action.key}</kbd>}
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {groups.map((group) => (
          <Command.Group key={group} heading={group} className={GROUP}>
            {shown
              .filter((found) => found.group === group)
              .map((found) => (
                <Command.Item
                  key={found.href + found.name}
                  value={keyOf(found)}
                  onSelect={() => go(found)}
                  className={ITEM}
                >
                  {found.name}
                </Command.Item>
              ))}
          </Command.Group>
        ))}
      </Command.List>
    </>
  );
}

/** Training the pipeline whose page is open, for who types that: whoever looks for its name shall not begin a run. */
function useTraining(typed: string): readonly OfferedAction[] {
  const router = useRouter();
  const [, encoded] = /^\/pipelines\/([^/]+)\/\w+$/.exec(usePathname()) ?? [];
  const pipeline = decodeURIComponent(encoded ?? "");
  const name = `Train ${pipeline}`;
  const wanted = typed.trim().toLowerCase();
  if (encoded === undefined || wanted === "" || !name.toLowerCase().startsWith(wanted)) return [];
  const train = async (): Promise<void> => {
    const ordered = await askForChange(() => startRun({ kind: "train", pipeline }));
    if (!ordered.ok) return tellProblems(ordered.problems);
    toast.success(`A training of ${pipeline} is queued.`);
    router.push(`/pipelines/${encoded}/train`);
    router.refresh();
  };
  return [{ name, act: () => void train() }];
}
