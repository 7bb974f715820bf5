import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { Desk } from "../api/model";

export type Place = "desk" | "archive" | "bin";
/** What is looked for. */
export type Wanted = { words: string; place: Place; standing: string; kind: string; days: string };
export const ANYTHING: Omit<Wanted, "place"> = { words: "", standing: "", kind: "", days: "" };

/** Jobs that are looked for, a page at a time. */
export function useDesk(wanted: Wanted) {
  return useInfiniteQuery({
    queryKey: ["desk", wanted],
    queryFn: ({ pageParam }) => {
      const asked = new URLSearchParams({ place: wanted.place, after: String(pageParam) });
      for (const k of ["words", "standing", "kind", "days"] as const) if (wanted[k]) asked.set(k, wanted[k]);
      return call<Desk>(`/desk?${asked}`);
    },
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const seen = pages.reduce((n, p) => n + p.jobs.length, 0);
      return seen < last.total && last.jobs.length ? seen : undefined;
    },
    placeholderData: keepPreviousData,
  });
}
