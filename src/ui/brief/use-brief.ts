"use client";
import { changePart, valueIn } from "@/core/pipeline/edit/parts";
import { useDesk } from "../draft/draft-context";

type Path = readonly (string | number)[];

export interface Brief {
  /** A part of the brief as text; empty where there is none. */
  readonly text: (...path: Path) => string;
  readonly value: (...path: Path) => unknown;
  /** Writes a part; an empty text removes it. */
  readonly put: (path: Path, value: unknown) => void;
}

/** The brief of a draft, and how it is written. */
export function useBrief(): Brief {
  const { draft } = useDesk();
  const value = (...path: Path): unknown => valueIn(draft.text, ["brief", ...path]);
  return {
    value,
    text: (...path) => {
      const found = value(...path);
      return typeof found === "string" || typeof found === "number" ? String(found) : "";
    },
    put: (path, written) =>
      void draft.edit((now) => changePart(now, ["brief", ...path], written === "" ? undefined : written)),
  };
}
