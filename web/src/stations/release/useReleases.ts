import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, post } from "../../api/client";
import type { Job } from "../../api/model";
import type { components } from "../../api/schema";
import { useKept } from "../../job/view";

type S = components["schemas"];
export type ReleaseState = S["ReleaseState"];
export type ReleaseLine = S["ReleaseLine"];
export type SheetState = S["SheetState"];
export type Ahead = S["Ahead"];
export type Picked = Partial<S["Picked"]> & { which: S["Picked"]["which"] };

export const ALL: Picked = { which: "left over and changed" };
/** Does it leave nothing out but what went out before? */
export const isWhole = (p: Picked) =>
  !p.sheets && !p.parts && !p.pieces && !p.cutters && !p.operations && !p.side;

/** Which part of the job goes out next; there again when one comes back to the station. */
export const usePicked = () => useKept<Picked>("release-picked", ALL);

/** What went out of the job, and what is still to go out. */
export const useReleases = (job: Job) =>
  useQuery({
    queryKey: ["releases", job.id, job.revision],
    queryFn: () => call<ReleaseState>(`/jobs/${job.id}/releases`),
    placeholderData: (was) => was,
  });

/** What a release would hold; what was known before stays while it is worked out anew. */
export const useAhead = (job: Job, picked: Picked) =>
  useQuery({
    queryKey: ["release-ahead", job.id, job.revision, picked],
    queryFn: ({ signal }) =>
      call<Ahead>(`/jobs/${job.id}/releases/ahead`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(picked),
        signal,
      }),
    placeholderData: (was) => was,
    retry: false,
  });

/** What is done with releases: told while it is under way, and what went wrong. */
export function useReleaseEdits(job: Job) {
  const client = useQueryClient();
  const [busy, setBusy] = useState(""),
    [wrong, setWrong] = useState(""),
    [done, setDone] = useState("");
  const fresh = () => {
    for (const key of ["releases", "release-ahead", "runs"])
      client.invalidateQueries({ queryKey: [key, job.id] });
    client.invalidateQueries({ queryKey: ["folders"] });
  };
  const run = async <T>(what: string, ask: () => Promise<T>, says: (made: T) => string) => {
    setBusy(what);
    setWrong("");
    setDone("");
    try {
      setDone(says(await ask()));
      return true;
    } catch (e) {
      setWrong((e as Error).message);
      return false;
    } finally {
      fresh();
      setBusy("");
    }
  };
  const at = `/jobs/${job.id}/releases`;
  return {
    busy,
    wrong,
    done,
    release: (picked: Picked, note: string) =>
      run(
        "writing the programs and reading them back",
        () => post<ReleaseState>(at, { revision: job.revision, picked, note }),
        (s) => `release ${s.releases[0].released.release} went out and is kept as it is`,
      ),
    withdraw: (n: number, says: string) =>
      run(
        "withdrawing it",
        () => post<ReleaseState>(`${at}/${n}/withdraw`, { says }),
        () => `release ${n} is withdrawn: what it held is left over again`,
      ),
    deliver: (n: number) =>
      run(
        "putting it into the machine's folder",
        () => post<{ machines: string[] }>(`${at}/${n}/deliver`),
        (d) => `release ${n} is in the folder of ${d.machines.join(", ")}`,
      ),
  };
}
export type ReleaseEdits = ReturnType<typeof useReleaseEdits>;
