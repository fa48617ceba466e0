"use client";
import { Moon, Search, Sun } from "lucide-react";
import { usePathname } from "next/navigation";
import { useEffect, useState } from "react";
import type { ClockState } from "./demo-clock";
import { RunningStrip, type RunningNow } from "./running-strip";
import { PageLink } from "../basic/page-link";
import { CommandBox } from "./command-box";

const AREAS = [
  ["Today", "/"],
  ["Tables", "/tables"],
  ["Pipelines", "/pipelines"],
  ["Models", "/models"],
  ["Runs", "/runs"],
] as const;

/** The mark: three threads crossing. */
function Mark() {
  return (
    <svg
      width="26"
      height="20"
      viewBox="0 0 26 20"
      aria-hidden
      fill="none"
      strokeWidth="2.2"
      strokeLinecap="round"
    >
      <path d="M1 4 C9 4 9 10 13 10 S17 16 25 16" stroke="var(--madder)" />
      <path d="M1 10 C8 10 9 4 13 4 S18 10 25 10" stroke="var(--woad)" />
      <path d="M1 16 C9 16 9 15 13 14 S18 4 25 4" stroke="var(--weld)" />
    </svg>
  );
}

/** The one bar on top: mark, areas in the order of the work, command box, what runs now. */
export function TopBar({
  running,
  clock,
}: {
  readonly running: RunningNow;
  readonly clock: ClockState | null;
}) {
  const path = usePathname();
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        setOpen((now) => !now);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <header className="sticky top-0 z-30 border-b border-rule bg-linen">
      <div className="flex h-12 items-center gap-5 px-5">
        <PageLink
          href="/"
          className="flex items-center gap-2 font-semibold no-underline"
          aria-label="Ravlen, go to Today"
        >
          <Mark />
          Ravlen
        </PageLink>
        <nav aria-label="Areas" className="flex h-full items-stretch gap-1">
          {AREAS.map(([name, href]) => {
            const here = href === "/" ? path === "/" : path.startsWith(href);
            return (
              <PageLink
                key={href}
                href={href}
                aria-current={here ? "page" : undefined}
                className={`flex items-center border-b-2 px-2.5 no-underline ${here ? "border-madder font-semibold" : "border-transparent text-faded hover:text-ink"}`}
              >
                {name}
              </PageLink>
            );
          })}
        </nav>
        <div className="ml-auto flex items-center gap-4">
          <RunningStrip running={running} clock={clock} />
          <button
            type="button"
            onClick={() => setOpen(true)}
            className="field flex w-44 items-center gap-2 py-1 text-faded"
            aria-label="Search or run a command"
          >
            <Search size={14} aria-hidden />
            Search<kbd className="ml-auto text-caption">Ctrl K</kbd>
          </button>
          <ThemeSwitch />
        </div>
      </div>
      <CommandBox open={open} onOpenChange={setOpen} />
    </header>
  );
}

function ThemeSwitch() {
  const [dark, setDark] = useState(false);
  useEffect(() => setDark(document.documentElement.dataset["theme"] === "dark"), []);
  const change = (): void => {
    const theme = dark ? "light" : "dark";
    document.documentElement.dataset["theme"] = theme;
    document.cookie = `ravlen-theme=${theme}; path=/; max-age=31536000; samesite=strict`;
    setDark(!dark);
  };
  return (
    <button
      type="button"
      className="press press-quiet px-1"
      onClick={change}
      aria-label={dark ? "Use light mode" : "Use dark mode"}
    >
      {dark ? <Sun size={16} /> : <Moon size={16} />}
    </button>
  );
}
