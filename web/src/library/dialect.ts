import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { post } from "../api/client";
import type { components } from "../api/schema";

type S = components["schemas"];
/** As the server keeps it, every field said. */
export type Dialect = Required<S["Dialect"]>;
export type DialectTried = S["DialectTried"];
export type JobTried = S["JobTried"];

/** A dialect with another unit; its name says which, where it says one. */
export const inUnitOf = (d: { name: string }, inch: boolean) => ({
  inch,
  name: d.name.replace(/\b(metric|inch)\b/, inch ? "inch" : "metric"),
});

/** ms after the last key before a dialect is tried. */
const REST = 200;

/** A dialect without the empty lines that one types on the way to a word. */
export const said = (d: Dialect): Dialect => ({
  ...d,
  ...Object.fromEntries(
    (["at_start", "before_change", "after_change", "before_cut", "after_cut", "at_end"] as const).map((k) => [
      k,
      d[k].filter((line) => line.trim()),
    ]),
  ),
});

/** A small program in a dialect, as soon as one has stopped typing; what was known before stays meanwhile. */
export function useTried(d: Dialect) {
  const [rested, setRested] = useState(d);
  useEffect(() => {
    const t = setTimeout(() => setRested(d), REST);
    return () => clearTimeout(t);
  }, [d]);
  const found = useQuery({
    queryKey: ["dialect tried", rested],
    queryFn: () => post<DialectTried>("/dialects/tried", said(rested)),
    placeholderData: (was) => was,
    retry: false,
    gcTime: 10_000,
  });
  return { ...found, fresh: rested === d && !found.isPlaceholderData };
}
