"use client";
import { Skeleton } from "../basic/skeleton";
import {
  ArrowLeft,
  ArrowRight,
  Copy,
  CopyPlus,
  Maximize2,
  Minimize2,
  Pencil,
  Power,
  Trash2,
} from "lucide-react";
import { useQueryState } from "nuqs";
import { Tabs } from "radix-ui";
import { memo, useState, type ReactNode } from "react";
import type { Crossing } from "@/core/plan/braid";
import { SqlText } from "../basic/sql-text";
import { useDesk } from "../draft/draft-context";
import { useAnswer } from "../draft/use-answer";
import { ExportStep } from "./export-step";
import { StepForm } from "./forms/step-form";
import { BeforeAfter } from "./tray-compare";
import { JoinPanel } from "./tray-join";
import { LearnedPanel } from "./tray-learned";
import { RowsAfter, type PreviewPage } from "./tray-rows";
import type { BraidActions } from "./use-braid-actions";

interface Preview {
  readonly sql: string;
  readonly learned: unknown;
  readonly page: PreviewPage;
}

/** Drawn apart from the Braid above: otherwise every frame of its scrolling would draw all these rows again. */
const OWN_LAYER = "bg-linen will-change-transform";

interface Props {
  readonly crossing: Crossing | undefined;
  /** Whether the selected step is so new that it is not drawn yet. */
  readonly isAwaiting: boolean;
  /** Whether the form of the step is to be gone on with at once. */
  readonly focusForm: boolean;
  readonly onFocused: () => void;
  readonly touched: readonly string[];
  readonly thread: string | undefined;
  readonly actions: BraidActions;
  readonly onRename: () => void;
}

/** Beneath the Braid: the form of the selected step, the rows after it, what it changed, what it learned, its SQL. */
export const Tray = memo(function Tray(props: Props) {
  if (props.isAwaiting)
    return (
      <div role="status" className={`h-[44%] min-h-[260px] shrink-0 px-4 py-3 text-faded ${OWN_LAYER}`}>
        reading the new step …
      </div>
    );
  return <OpenTray {...props} />;
});

function OpenTray({ crossing, touched, thread, actions, onRename, focusForm, onFocused }: Props) {
  const [tab, setTab] = useQueryState("tray", { defaultValue: "rows" });
  const { keys } = useDesk();
  const [tall, setTall] = useState(false);
  const place = crossing && { strand: crossing.strand, after: crossing.position + 1 };
  const { value: preview, failure, asking } = useAnswer<Preview>("rows", place, 60);
  if (!crossing || !place)
    return (
      <div className="shrink-0 px-4 py-3 text-faded">
        Choose a step above, or press → in the Braid, to see its settings and the rows after it. Select
        columns to see what can be done with them, or add a step with <kbd>i</kbd>.
      </div>
    );
  const readable = Boolean(keys[place.strand]?.[place.after]);
  const isJoin = crossing.kind === "join";
  const tabs = [
    ["settings", "Settings"],
    ["rows", "Rows after"],
    ["compare", "Before and after"],
    ...(isJoin ? [["join", "Join matches"]] : []),
    ["learned", "Learned values"],
    ["sql", "SQL"],
  ] as const;
  const shown = tabs.some(([value]) => value === tab) ? tab : "rows";
  const waiting = (words: string): ReactNode => {
    if (failure) return null;
    if (readable) return <Skeleton label={words} columns={shown === "sql" ? 1 : 6} />;
    return (
      <p className="px-4 py-3 text-faded">
        This step or an earlier one has an error, so there are no rows to show. See its settings.
      </p>
    );
  };
  return (
    <Tabs.Root
      value={shown}
      onValueChange={(value) => void setTab(value)}
      id="tray"
      tabIndex={-1}
      className={`flex shrink-0 flex-col outline-none ${tall ? "h-[68%]" : "h-[44%] min-h-[260px]"} ${OWN_LAYER}`}
      data-testid="tray"
    >
      <div className="flex items-center gap-1 border-b border-rule px-4">
        <h2 className="min-w-0 truncate py-1.5">
          <span className="text-faded">
            {crossing.strand} · {crossing.position + 1}
          </span>{" "}
          {crossing.name}
          {crossing.off && <span className="text-faded"> (off)</span>}
        </h2>
        <div role="toolbar" aria-label="This step" className="ml-1 flex">
          <StepButton
            label="Move to the left (Alt ←)"
            onClick={() => void actions.move(crossing, crossing.position - 1)}
          >
            <ArrowLeft size={14} />
          </StepButton>
          <StepButton
            label="Move to the right (Alt →)"
            onClick={() => void actions.move(crossing, crossing.position + 1)}
          >
            <ArrowRight size={14} />
          </StepButton>
          <StepButton label="Name the step (n)" onClick={onRename}>
            <Pencil size={13} />
          </StepButton>
          <StepButton
            label={crossing.off ? "Turn on (o)" : "Turn off (o)"}
            onClick={() => actions.switchOff(crossing)}
            pressed={crossing.off}
          >
            <Power size={14} />
          </StepButton>
          <StepButton label="Duplicate (d)" onClick={() => actions.duplicate(crossing)}>
            <CopyPlus size={14} />
          </StepButton>
          <StepButton label="Copy (Ctrl C)" onClick={() => actions.copy(crossing)}>
            <Copy size={14} />
          </StepButton>
          <ExportStep place={place} />
          <StepButton label="Delete the step (Delete)" onClick={() => actions.remove(crossing)}>
            <Trash2 size={14} />
          </StepButton>
        </div>
        <Tabs.List className="ml-auto flex shrink-0" aria-label="About this step">
          {tabs.map(([value, name]) => (
            <Tabs.Trigger
              key={value}
              value={value}
              className="border-b-2 border-transparent px-2.5 py-1.5 text-faded data-[state=active]:border-madder data-[state=active]:font-semibold data-[state=active]:text-ink"
            >
              {name}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <StepButton label={tall ? "Smaller tray" : "Larger tray"} onClick={() => setTall(!tall)}>
          {tall ? <Minimize2 size={14} /> : <Maximize2 size={14} />}
        </StepButton>
      </div>
      <div
        className={`min-h-0 flex-1 overflow-auto ${asking && shown !== "settings" ? "cursor-progress" : ""}`}
      >
        {failure && shown !== "settings" && (
          <p role="alert" className="px-4 py-3 text-madder">
            This step could not be previewed. {failure}
          </p>
        )}
        <Tabs.Content value="settings" tabIndex={-1}>
          <StepForm
            key={`${crossing.strand}/${crossing.position}/${crossing.kind}`}
            crossing={crossing}
            focused={focusForm}
            onFocused={onFocused}
          />
        </Tabs.Content>
        <Tabs.Content value="rows" tabIndex={-1} className="h-full">
          {preview ? (
            <RowsAfter page={preview.page} touched={touched} thread={thread} />
          ) : (
            waiting("reading rows …")
          )}
        </Tabs.Content>
        <Tabs.Content value="compare" tabIndex={-1}>
          {readable ? <BeforeAfter place={place} columns={touched} /> : waiting("")}
        </Tabs.Content>
        {isJoin && (
          <Tabs.Content value="join" tabIndex={-1}>
            {readable ? <JoinPanel place={place} /> : waiting("")}
          </Tabs.Content>
        )}
        <Tabs.Content value="learned" className="px-4 py-3">
          {!crossing.learns && <p className="text-faded">This step learns no values.</p>}
          {crossing.learns && preview && <LearnedPanel place={place} value={preview.learned} />}
          {crossing.learns && !preview && waiting("reading training rows …")}
        </Tabs.Content>
        <Tabs.Content value="sql">
          {preview ? <SqlText sql={preview.sql} /> : waiting("compiling …")}
        </Tabs.Content>
      </div>
    </Tabs.Root>
  );
}

function StepButton({
  label,
  onClick,
  pressed,
  children,
}: {
  readonly label: string;
  readonly onClick: () => void;
  readonly pressed?: boolean;
  readonly children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      onClick={onClick}
      className="press press-quiet px-1.5 py-1"
    >
      {children}
    </button>
  );
}
