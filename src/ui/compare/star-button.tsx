"use client";
import { remark } from "@/server/training-actions";
import { Star } from "lucide-react";
import { toast } from "sonner";
import { usePageRefresh } from "../basic/page-refresh";

/** Stars a trial, or takes its star away. */
export function StarButton({ model, starred }: { readonly model: number; readonly starred: boolean }) {
  const refresh = usePageRefresh();
  const press = async (): Promise<void> => {
    const outcome = await remark({ model, starred: !starred });
    if (outcome.ok) refresh();
    else toast.error(outcome.problems[0]?.message ?? "The star could not be saved.");
  };
  return (
    <button
      type="button"
      aria-label={starred ? "Remove star" : "Add star"}
      aria-pressed={starred}
      onClick={() => void press()}
    >
      <Star
        size={15}
        fill={starred ? "var(--weld)" : "none"}
        className={starred ? "text-weld" : "text-faded"}
        aria-hidden
      />
    </button>
  );
}
