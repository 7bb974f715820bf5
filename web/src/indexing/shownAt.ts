import { useMemo } from "react";

import type { Setup, SheetPlan } from "../api/model";
import { useJobView } from "../job/view";

/** At which of its positions (from 1) long stock is drawn: that of the moment on the tape, else the one that was chosen. */
export function useShownPosition(): [number, (n: number) => void] {
  const { setup, plan, time, position, setPosition } = useJobView();
  const count = setup.long?.along?.positions.length ?? 1;
  return [Math.min(count, positionAt(plan, time) ?? position), setPosition];
}

function positionAt(plan: SheetPlan | null | undefined, time: number | null): number | null {
  if (time === null || !plan?.cuts.length) return null;
  return (plan.cuts.findLast((c) => c.begins <= time) ?? plan.cuts[0]).position;
}

/** A setup with its stock moved along the table to a position; its zero stays where it is on the table. */
export function useLaidAt(setup: Setup, position: number): Setup {
  return useMemo(() => laidAt(setup, position), [setup, position]);
}

export function laidAt(setup: Setup, position: number): Setup {
  const long = setup.long?.along,
    moved = long?.positions[position - 1]?.moved ?? 0;
  if (!long || !moved) return setup;
  const [dx, dy] = long.indexing.axis === "y" ? [0, moved] : [moved, 0];
  return {
    ...setup,
    sheet_at: [setup.sheet_at[0] - dx, setup.sheet_at[1] - dy],
    stock: setup.stock.map((s) => ({ ...s, zero_at: [s.zero_at[0] + dx, s.zero_at[1] + dy] })),
  };
}
