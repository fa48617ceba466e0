"use client";
import { Copy } from "lucide-react";
import { toast } from "sonner";

/** Copies a text for pasting elsewhere. */
export function CopyButton({ text, what }: { readonly text: string; readonly what: string }) {
  const copy = async (): Promise<void> => {
    try {
      await navigator.clipboard.writeText(text);
      toast.success(`${what} copied.`);
    } catch {
      toast.error("The browser blocked copying. Select the text and copy it.");
    }
  };
  return (
    <button
      type="button"
      className="press press-quiet px-1.5 py-0.5 text-caption"
      onClick={() => void copy()}
    >
      <Copy size={14} aria-hidden /> Copy
    </button>
  );
}
