"use client";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

/**
 * What is fetched is forgotten with the component that asked for it, and a failure is shown instead of asked again;
 * a question that wants it otherwise says so.
 */
const makeClient = (): QueryClient =>
  new QueryClient({
    defaultOptions: {
      queries: { retry: false, gcTime: 0, refetchOnWindowFocus: false, refetchOnReconnect: false },
    },
  });

/** One client for all that the pages fetch. */
export function QueryProvider({ children }: { readonly children: ReactNode }) {
  const [client] = useState(makeClient);
  return <QueryClientProvider client={client}>{children}</QueryClientProvider>;
}
