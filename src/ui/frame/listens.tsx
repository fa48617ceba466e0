"use client";
import { useEffect } from "react";

/** Marks the page once it listens: it is seen earlier than that, and whoever drives it from outside has to know. */
export function Listens() {
  useEffect(() => {
    document.documentElement.dataset["listens"] = "true";
  }, []);
  return null;
}
