import { useCallback, useEffect, useRef, useState } from "react";

import { post } from "../../api/client";
import { type Edits } from "../../api/edits";
import type { Job, NestState, Piece, Setup } from "../../api/model";
import { nestState } from "../../api/queries";

const EVERY = 350;
const isOn = (s: NestState) => s.state === "running" || s.state === "waiting";
const asPieces = (s: NestState): Piece[] =>
  (s.best?.placements ?? []).map((p) => ({
    ...p,
    id: `${p.part}#${p.copy + 1}`,
    copy_no: p.copy,
    locked: false,
  }));

/** A search for a layout in the background: polled while it runs, its best shown as it improves, the job read again when it is accepted. */
export function useSearch(job: Job, setup: Setup, edits: Edits) {
  const [nest, setNest] = useState<NestState | null>(null),
    [live, setLive] = useState<Piece[] | null>(null),
    [watching, setWatching] = useState(false),
    [watch, setWatch] = useState(true),
    [seconds, setSeconds] = useState(8);
  const found = useRef(-1);
  const { refresh, setNotice } = edits;
  const take = useCallback((s: NestState) => {
    setNest(s.state === "none" ? null : s);
    if (s.best && s.state === "running") setLive(asPieces(s));
    if (s.found !== undefined) found.current = s.found;
  }, []);
  useEffect(() => {
    let over = false;
    // a search belongs to its setup: what was watched of another is no layout of this one
    setNest(null);
    setLive(null);
    setWatching(false);
    nestState(job.id, setup.id, 1e9)
      .then((s) => {
        if (over || !isOn(s)) return;
        found.current = -1;
        setWatching(true);
      })
      .catch(() => {});
    return () => {
      over = true;
    };
  }, [job.id, setup.id]);
  useEffect(() => {
    if (!watching) return;
    let over = false;
    const heard = (s: NestState) => {
      if (over) return;
      if (isOn(s)) {
        take(s);
        return;
      }
      over = true;
      // the keys come back only when the job has been read again: an edit made before would rest on the layout that is gone
      refresh().finally(() => {
        take(s);
        setWatching(false);
        setLive(null);
        if (s.state === "failed" || s.state === "outdated")
          setNotice({ kind: "bad", text: s.message ?? "the nest failed" });
      });
    };
    const timer = setInterval(() => {
      nestState(job.id, setup.id, found.current).then(heard, () => {});
    }, EVERY);
    return () => {
      over = true;
      clearInterval(timer);
    };
  }, [watching, job.id, setup.id, take, refresh, setNotice]);
  const start = (afresh = false) => {
    found.current = -1;
    post<NestState>(`/jobs/${job.id}/nest`, { setup: setup.id, seconds, seed: job.revision, afresh })
      .then((s) => {
        take(s);
        setWatching(true);
      })
      .catch((e: Error) => setNotice({ kind: "bad", text: e.message }));
  };
  const stop = () => {
    post(`/jobs/${job.id}/nest/stop?setup=${encodeURIComponent(setup.id)}`).catch(() => {});
  };
  return {
    nest,
    running: nest !== null && isOn(nest),
    /** The best layout so far, where it is watched. */
    preview: watch ? live : null,
    ...{ start, stop, seconds, setSeconds, watch, setWatch },
  };
}
export type Search = ReturnType<typeof useSearch>;
