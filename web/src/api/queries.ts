/** What is read from the server. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { call } from "./client";
import type { Job, JobLine, Judgement, Library, MadeKinds, NestState, ProofSheet, Reading } from "./model";

/** Jobs of a kind: those that cut parts, or those that surface a board. */
export const useJobs = (kind: JobLine["kind"]) =>
  useQuery({
    queryKey: ["jobs"],
    queryFn: () => call<JobLine[]>("/jobs"),
    select: (all) => all.filter((j) => j.kind === kind),
  });
export const useLibrary = () =>
  useQuery({ queryKey: ["library"], queryFn: () => call<Library>("/library"), staleTime: 60_000 });
/** Are holds or tried remedies of this answer still being worked out? */
export const inHand = (job: Job) =>
  job.untried || job.setups.some((s) => s.sheets.some((x) => x.hold === null));
export const useJob = (id: string) => {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      // the first look is answered at once; what takes longer comes with the next
      let read = await call<Job>(`/jobs/${id}${client.getQueryData(["job", id]) ? "" : "?soon=true"}`);
      for (
        let n = 0;
        n < 6 && inHand(read) && read.revision >= (client.getQueryData<Job>(["job", id])?.revision ?? 0);
        n++
      ) {
        client.setQueryData<Job>(["job", id], (now) => (now && now.revision > read.revision ? now : read)); // shown while its remedies are tried
        read = await call<Job>(`/jobs/${id}`);
      }
      const known = client.getQueryData<Job>(["job", id]);
      return known && known.revision > read.revision ? known : read; // an edit was answered meanwhile
    },
  });
};
/** Hear of what others change in a job, while the page is seen; browsers keep few connections, so a hidden page holds none.
 * ``kept`` names the query that holds what was read of it. */
export function useChanges(id: string | undefined, kept = "job") {
  const client = useQueryClient();
  useEffect(() => {
    if (!id) return;
    let heard: EventSource | null = null;
    const listen = () => {
      if (document.hidden) {
        heard?.close();
        heard = null;
        return;
      }
      heard ??= new EventSource(`/api/jobs/${id}/changes`);
      heard.onmessage = (e) => {
        const known = client.getQueryData<{ revision: number }>([kept, id]);
        // what is on its way from here brings the newest with its answer
        if (
          known &&
          (JSON.parse(e.data) as { revision: number }).revision > known.revision &&
          !client.isMutating()
        )
          client.invalidateQueries({ queryKey: [kept, id] });
      };
    };
    listen();
    document.addEventListener("visibilitychange", listen);
    return () => {
      document.removeEventListener("visibilitychange", listen);
      heard?.close();
    };
  }, [id, kept, client]);
}
export const useProof = (id: string, revision: number, on: boolean) =>
  useQuery({
    queryKey: ["proof", id, revision],
    queryFn: () => call<Record<string, ProofSheet[]>>(`/jobs/${id}/proof`),
    enabled: on,
    staleTime: Infinity,
  });

export const useReading = (id: string, drawing: string | undefined, revision: number) =>
  useQuery({
    queryKey: ["reading", id, drawing, revision],
    queryFn: () => call<Reading>(`/jobs/${id}/drawings/${drawing}/reading`),
    enabled: !!drawing,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
export const useJudgement = (id: string, part: string | undefined, revision: number) =>
  useQuery({
    queryKey: ["judgement", id, part, revision],
    queryFn: () => call<Judgement>(`/jobs/${id}/parts/${part}/judgement`),
    enabled: !!part,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
export const useMade = () =>
  useQuery({ queryKey: ["made"], queryFn: () => call<MadeKinds>("/made"), staleTime: Infinity });

export const nestState = (id: string, setup: string, after: number) =>
  call<NestState>(`/jobs/${id}/nest?setup=${encodeURIComponent(setup)}&after=${after}`);
