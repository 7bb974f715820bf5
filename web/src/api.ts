import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import type { Job, JobLine, Library, NestState, ProofSheet } from "./model";

export class ApiError extends Error {
  constructor(public status: number, message: string) { super(message); }
}

export async function call<T>(path: string, init?: RequestInit): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, init);
  } catch {
    throw new ApiError(0, "Venzo does not answer. Is it still running? Your last acknowledged edit is safe.");
  }
  const body = await answer.json().catch(() => ({ detail: `the server answered ${answer.status}` }));
  if (!answer.ok) throw new ApiError(answer.status, typeof body.detail === "string" ? body.detail : JSON.stringify(body.detail));
  return body as T;
}

export const post = <T>(path: string, body?: unknown) =>
  call<T>(path, { method: "POST", headers: { "content-type": "application/json" }, body: body === undefined ? undefined : JSON.stringify(body) });

export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => call<JobLine[]>("/jobs") });
export const useLibrary = () => useQuery({ queryKey: ["library"], queryFn: () => call<Library>("/library"), staleTime: 60_000 });
export const useJob = (id: string) => useQuery({ queryKey: ["job", id], queryFn: () => call<Job>(`/jobs/${id}`) });
export const useProof = (id: string, revision: number, on: boolean) =>
  useQuery({ queryKey: ["proof", id, revision], queryFn: () => call<Record<string, ProofSheet[]>>(`/jobs/${id}/proof`), enabled: on, staleTime: Infinity });

export type Notice = { kind: "bad" | "said"; text: string } | null;
export type DropResult = { file: string; ok: boolean; says: string };

/** Everything that changes a job. Each answer brings the whole job as it is now; errors become a notice and change nothing. */
export function useEdits(id: string) {
  const client = useQueryClient();
  const [notice, setNotice] = useState<Notice>(null);
  const [dropped, setDropped] = useState<DropResult[]>([]);
  const take = (job: Job) => client.setQueryData(["job", id], job);
  const failed = (e: Error) => {
    setNotice({ kind: "bad", text: e instanceof ApiError && e.status === 409 ? `${e.message}. The job was read again; make your change on it.` : e.message });
    if (e instanceof ApiError && (e.status === 409 || e.status === 404)) client.invalidateQueries({ queryKey: ["job", id] });
  };
  const run = useMutation({
    mutationFn: (command: Record<string, unknown>) => {
      const base = client.getQueryData<Job>(["job", id])?.revision ?? 1;
      return post<Job>(`/jobs/${id}/commands`, { base, command });
    },
    scope: { id: `edits-${id}` },
    onSuccess: (job) => { take(job); setNotice(null); },
    onError: failed,
  });
  const back = useMutation({ mutationFn: (way: "undo" | "redo") => post<Job>(`/jobs/${id}/${way}`), scope: { id: `edits-${id}` },
    onSuccess: (job) => { take(job); setNotice(null); }, onError: failed });
  const drop = useMutation({
    mutationFn: async (ask: { files: File[]; setup: string; units: string }) => {
      const results: DropResult[] = [];
      for (const f of ask.files) { // one by one: progress shows, and one bad file spoils nothing
        const form = new FormData();
        form.append("files", f); form.append("setup", ask.setup); form.append("units", ask.units);
        const answer = await call<{ results: DropResult[]; job: Job }>(`/jobs/${id}/drawings`, { method: "POST", body: form })
          .catch((e: Error) => ({ results: [{ file: f.name, ok: false, says: e.message }], job: null }));
        results.push(...answer.results);
        setDropped([...results]);
        if (answer.job) take(answer.job);
      }
      return results;
    },
    onMutate: () => setDropped([]),
    onSuccess: (results) => {
      const bad = results.filter((r) => !r.ok);
      setNotice(bad.length ? { kind: "bad", text: bad.map((r) => r.says).join("  ·  ") } : { kind: "said", text: `${results.length} file${results.length === 1 ? "" : "s"} taken in` });
    },
    onError: failed,
  });
  const reread = useMutation({ mutationFn: (ask: { drawing: string; units: string }) => post<Job>(`/jobs/${id}/drawings/${ask.drawing}/reread?units=${ask.units}`), scope: { id: `edits-${id}` },
    onSuccess: (job) => { take(job); setNotice(null); }, onError: failed });
  return { reread: (drawing: string, units: string) => reread.mutate({ drawing, units }), run: (c: Record<string, unknown>) => run.mutate(c), undo: () => back.mutate("undo"), redo: () => back.mutate("redo"),
    drop: drop.mutate, dropping: drop.isPending, dropped, busy: run.isPending || back.isPending || reread.isPending, notice, setNotice,
    refresh: () => client.invalidateQueries({ queryKey: ["job", id] }) };
}
export type Edits = ReturnType<typeof useEdits>;

export const nestState = (id: string, setup: string, after: number) => call<NestState>(`/jobs/${id}/nest?setup=${encodeURIComponent(setup)}&after=${after}`);
