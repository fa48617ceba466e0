"use client";
import type { TableProfile } from "@/core/evaluate/table-profile";
import { askProfile, scheduleProfile } from "@/server/table-actions";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { tellProblems } from "../basic/tell-problems";
import { fetchJson } from "../queries/fetch-json";

/** A profile as the server keeps it. */
export interface KeptProfile {
  readonly profile: TableProfile | null;
  readonly profiledAt: string | null;
  readonly problem: string | null;
  readonly refreshHours: number | null;
  readonly underWay: boolean;
}

const POLL_MILLISECONDS = 1000;

export interface ProfileControl {
  readonly kept: KeptProfile | undefined;
  readonly failure: string | undefined;
  readonly refresh: () => void;
  /** @param hours how often it is refreshed from now on; null: on request only */
  readonly schedule: (hours: number | null) => void;
}

/** The profile of a table, taken now if there is none, and read again while it is being taken. */
export function useProfile(schema: string, table: string, first: KeptProfile): ProfileControl {
  const query = new URLSearchParams({ schema, table }).toString();
  const { data, error, refetch } = useQuery<KeptProfile>({
    queryKey: ["profile", query],
    queryFn: ({ signal }) => fetchJson<KeptProfile>(`/api/tables/profile?${query}`, { signal }),
    initialData: first,
    refetchInterval: ({ state }) =>
      state.data && (state.data.underWay || (!state.data.profile && !state.data.problem))
        ? POLL_MILLISECONDS
        : false,
  });
  const isUnseen = data !== undefined && !data.profile && !data.underWay && !data.problem;
  const asked = useRef(false);
  useEffect(() => {
    if (!isUnseen || asked.current) return;
    asked.current = true;
    void askProfile({ schema, table });
  }, [isUnseen, schema, table]);
  return {
    kept: data,
    failure: error?.message,
    refresh: () =>
      void askProfile({ schema, table }).then((outcome) => {
        if (!outcome.ok) tellProblems(outcome.problems);
        return refetch();
      }),
    schedule: (hours) => void scheduleProfile({ schema, table }, hours).then(() => refetch()),
  };
}
