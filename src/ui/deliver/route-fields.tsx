"use client";
import { Plus, X } from "lucide-react";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";

type Route = Delivery["routes"][number];

interface Props {
  readonly routes: readonly Route[];
  readonly schema: string;
  /** Columns a condition can speak of, beside the prediction's own. */
  readonly carried: readonly string[];
  readonly onChange: (routes: Route[]) => void;
}

/** Other tables for some of the rows, in the order in which they are asked. */
export function RouteFields({ routes, schema, carried, onChange }: Props) {
  const put = (at: number, part: Partial<Route>): void =>
    onChange(routes.map((route, index) => (index === at ? { ...route, ...part } : route)));
  return (
    <FormLine
      label="routes"
      {...(routes.length > 0
        ? {
            says: `The first matching route takes the row. Conditions can use prediction, probability, ${carried.join(", ")}.`,
          }
        : {})}
    >
      {routes.map((route, index) => (
        <div key={index} className="mb-1.5 flex items-center gap-2">
          <span className="text-faded">where</span>
          <input
            aria-label={`Condition of route ${index + 1}`}
            className="field figure w-72"
            value={route.when}
            placeholder="such as probability >= 0.8"
            onChange={(event) => put(index, { when: event.target.value })}
          />
          <span className="text-faded">into</span>
          <input
            aria-label={`Table of route ${index + 1}`}
            className="field figure w-72"
            value={route.table}
            onChange={(event) => put(index, { table: event.target.value })}
          />
          <button
            type="button"
            aria-label={`Remove route ${index + 1}`}
            className="press press-quiet px-1"
            onClick={() => onChange(routes.filter((_, at) => at !== index))}
          >
            <X size={13} />
          </button>
        </div>
      ))}
      <button
        type="button"
        className="press press-quiet px-1 text-caption"
        onClick={() => onChange([...routes, { when: "", table: `${schema}.` }])}
      >
        <Plus size={13} aria-hidden />
        route
      </button>
    </FormLine>
  );
}
