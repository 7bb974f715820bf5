import { useEffect } from "react";

import { STATIONS } from "../api/model";
import type { JobView } from "../job/view";
import { typing, useKeys, withModifier } from "../shared/keys";

/** Seconds that what was done is told. */
const TOLD = 5;

/** Keys of a job: undo, redo, the stations by number, a search for a layout; Esc lets go. */
export function useJobKeys({ edits, search, go, select, setTime }: JobView) {
  useKeys((e) => {
    if (typing(e)) return;
    const key = e.key.toLowerCase();
    if ((e.ctrlKey || e.metaKey) && (key === "z" || key === "y")) {
      e.preventDefault();
      if (key === "y" || e.shiftKey) edits.redo();
      else edits.undo();
    } else if (!withModifier(e)) {
      const station = STATIONS[Number(e.key) - 1];
      if (station) go(station.id);
      if (e.key === "Escape") {
        select(null);
        setTime(null);
      }
      // the address, not the state: it is right at once when 3 and N follow each other quickly
      if (key === "n" && window.location.pathname.endsWith("/nest") && !search.running) search.start();
    }
  });
  const { notice, setNotice } = edits;
  useEffect(() => {
    if (notice?.kind !== "said") return;
    const timer = setTimeout(() => setNotice(null), TOLD * 1000);
    return () => clearTimeout(timer);
  }, [notice, setNotice]);
}
