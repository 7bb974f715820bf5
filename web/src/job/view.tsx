/** What every station of a job shares: the job as it is now, what is chosen, and where on the tape one stands. */
import { createContext, useCallback, useContext, useMemo, useRef, useState } from "react";

import type { Edits } from "../api/edits";
import type { Job, ProofSheet, Setup, SheetPlan, Station } from "../api/model";
import type { Search } from "../stations/nest/useSearch";
import type { Kept } from "../table/camera";

export type OneSheet = [stock: string, copy: number];
export type JobView = {
  job: Job;
  setup: Setup;
  /** Look at another setup of the job. */
  chooseSetup: (id: string) => void;
  edits: Edits;
  station: Station;
  go: (s: Station) => void;
  proof?: ProofSheet[];
  search: Search;
  /** Sheets with pieces on them, and the one that is shown. */
  sheets: OneSheet[];
  sheet: OneSheet;
  show: (stock: string, copy: number) => void;
  plan?: SheetPlan;
  time: number | null;
  setTime: (t: number | null) => void;
  /** The piece that was chosen last. */
  selected: string | null;
  /** All pieces that are chosen. */
  chosen: string[];
  choose: (ids: string[]) => void;
  select: (id: string | null) => void;
  /** A piece that waits for another to change places with. */
  swap: string | null;
  setSwap: (id: string | null) => void;
  look: { kept: Kept; keep: (k: Kept) => void };
  kept: Map<string, unknown>;
  /** At which of its positions (from 1) long stock is looked at, where no moment of the tape says. */
  position: number;
  setPosition: (n: number) => void;
};

const Context = createContext<JobView | null>(null);
export const JobViewProvider = Context.Provider;

export function useJobView(): JobView {
  const view = useContext(Context);
  if (!view) throw new Error("outside a job");
  return view;
}

/** State of a station that is there again when one comes back to it. */
export function useKept<T>(name: string, start: T): [T, (v: T | ((now: T) => T)) => void] {
  const { kept } = useJobView();
  const [value, set] = useState<T>(() => (kept.has(name) ? (kept.get(name) as T) : start));
  const now = useRef(value);
  const put = useCallback(
    (v: T | ((now: T) => T)) => {
      now.current = typeof v === "function" ? (v as (now: T) => T)(now.current) : v;
      kept.set(name, now.current);
      set(now.current);
    },
    [kept, name],
  );
  return [value, put];
}

/** The sheets that pieces lie on, in order. */
export function sheetsOf(pieces: { sheet: string; sheet_copy: number }[]): OneSheet[] {
  const all = new Map(pieces.map((p) => [`${p.sheet}/${p.sheet_copy}`, [p.sheet, p.sheet_copy] as OneSheet]));
  return [...all.values()].sort((a, b) => a[0].localeCompare(b[0]) || a[1] - b[1]);
}

/** Which sheet is shown: the one that was asked for as long as it is used, else the first. */
export function useSheet(setup: Setup, pieces: { sheet: string; sheet_copy: number }[]) {
  const [where, setWhere] = useState<OneSheet | null>(null);
  const sheets = useMemo(() => sheetsOf(pieces), [pieces]);
  const asked = where && sheets.find((s) => s[0] === where[0] && s[1] === where[1]);
  const first: OneSheet = sheets[0] ?? [setup.stock.find((s) => s.quantity)?.id ?? "", 0];
  return { sheets, sheet: asked ?? first, setWhere };
}
