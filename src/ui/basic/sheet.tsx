import type { ComponentProps } from "react";

/** A table of a page; where it is wider than its room, it is scrolled by itself. */
export function Sheet({ className = "", ...table }: ComponentProps<"table">) {
  return (
    <div className="relative overflow-x-auto">
      <table className={`sheet ${className}`.trim()} {...table} />
    </div>
  );
}
