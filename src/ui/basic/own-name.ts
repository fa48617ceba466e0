"use client";
import { useEffect, useState } from "react";

const NAME = "ravlen-name";

/** The name of whoever works at this browser, remembered between visits. */
export function useOwnName(): readonly [string, (name: string) => void] {
  const [name, setName] = useState("");
  useEffect(() => setName(window.localStorage.getItem(NAME) ?? ""), []);
  return [
    name,
    (next) => {
      setName(next);
      window.localStorage.setItem(NAME, next);
    },
  ];
}
