import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { heldTag, wholeJob } from "./held";
import type {
  Compared,
  Job,
  JobLine,
  Judgement,
  Library,
  MadeKinds,
  NestState,
  ProofSheet,
  Reading,
  Recipe,
} from "./model";

export class ApiError extends Error {
  constructor(
    public status: number,
    message: string,
  ) {
    super(message);
  }
}

/** The name that whoever works at this screen gave, kept in this browser. */
export const author = () => {
  try {
    return localStorage.getItem("venzo-author") ?? "";
  } catch {
    return "";
  }
};
export const setAuthor = (name: string) => {
  try {
    localStorage.setItem(
      "venzo-author",
      [...name.replace(/\p{Surrogate}/gu, "").trim()].slice(0, 80).join(""),
    );
  } catch {
    /* a browser that keeps nothing: unsigned */
  }
};

export async function call<T>(path: string, init?: RequestInit): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, { ...init, headers: { ...init?.headers, ...said(path) } });
  } catch {
    throw new ApiError(0, "Venzo does not answer. Is it still running? Your last acknowledged edit is safe.");
  }
  const body = await answer.json().catch(() => ({ detail: `the server answered ${answer.status}` }));
  if (!answer.ok)
    throw new ApiError(
      answer.status,
      typeof body.detail === "string" ? body.detail : JSON.stringify(body.detail),
    );
  return (await wholeAnswer(body)) as T;
}

/** Who works at this screen, and which answer about the job is held. */
function said(path: string): Record<string, string> {
  const name = author(),
    tag = heldTag(/^\/jobs\/([^/?]+)/.exec(path)?.[1] ?? "");
  return { ...(name && { "x-author": encodeURIComponent(name) }), ...(tag && { "x-holds": tag }) };
}

/** An answer that is a job, or brings one, with all of it. */
async function wholeAnswer(body: unknown): Promise<unknown> {
  if (isJob(body)) return wholeJob(body) ?? (await call<Job>(`/jobs/${body.id}`));
  if (plain(body) && isJob(body.job)) return { ...body, job: await wholeAnswer(body.job) };
  return body;
}
const isJob = (v: unknown): v is Job => plain(v) && typeof v.tag === "string" && Array.isArray(v.setups);

export const post = <T>(path: string, body?: unknown) =>
  call<T>(path, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  });

export const patch = <T>(path: string, body: unknown) =>
  call<T>(path, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });

const plain = (v: unknown): v is Record<string, unknown> =>
  typeof v === "object" && v !== null && !Array.isArray(v);
/** Only the fields in which a thing differs from what it was, nested ones too; where a nested one lost a key, the whole of it. */
export function changedFields(before: object, after: object): Record<string, unknown> {
  const was = before as Record<string, unknown>,
    out: Record<string, unknown> = {};
  for (const [k, v] of Object.entries(after)) {
    if (v === undefined || JSON.stringify(v) === JSON.stringify(was[k])) continue;
    const old = was[k];
    out[k] =
      !plain(v) || !plain(old)
        ? v
        : Object.keys(old).every((x) => x in v)
          ? changedFields(old, v)
          : { "=": v };
  }
  return out;
}

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
const inHand = (job: Job) => job.untried || job.setups.some((s) => s.sheets.some((x) => x.hold === null));
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

/** Commands that need the drawing or the geometry itself, not only the plan. */
const ASKS = new Set(["read-again", "alter-part", "find-place", "move-cut"]);
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

type Thing = { id: string };
type ListChange = {
  add: unknown[];
  change: { id: string; fields: Record<string, unknown> }[];
  drop: string[];
};
/** What a list of things with ids becomes, as what is added, changed field by field, and dropped: a command names nothing else. */
export function listChange<T extends Thing>(before: T[], after: T[]): ListChange {
  const was = new Map(before.map((t) => [t.id, t]));
  const fields = (a: T, b: T) =>
    Object.fromEntries(
      Object.entries(b).filter(([k, v]) => JSON.stringify(v) !== JSON.stringify(a[k as keyof T])),
    );
  return {
    add: after.filter((t) => !was.has(t.id)),
    change: after.flatMap((t) => {
      const old = was.get(t.id),
        f = old ? fields(old, t) : {};
      return Object.keys(f).length ? [{ id: t.id, fields: f }] : [];
    }),
    drop: before.filter((t) => !after.some((n) => n.id === t.id)).map((t) => t.id),
  };
}
/** The same for steps, whose order matters. */
export function stepsChange<T extends Thing>(before: T[], after: T[]): ListChange & { order?: string[] } {
  const c = listChange(before, after),
    kept = before.filter((t) => !c.drop.includes(t.id)).map((t) => t.id),
    now = after.map((t) => t.id);
  return [...kept, ...c.add.map((t) => (t as Thing).id)].join("|") === now.join("|")
    ? c
    : { ...c, order: now };
}

/** A count that goes on from what was clicked last, while the answers to earlier clicks are on their way. */
export function useCount(value: number, onCommit: (n: number) => void): [number, (n: number) => void] {
  const [asked, ask] = useState<number | null>(null);
  useEffect(() => {
    ask((now) => (now === value ? null : now));
  }, [value]);
  useEffect(() => {
    if (asked === null) return;
    const timer = setTimeout(() => ask(null), 20_000);
    return () => clearTimeout(timer);
  }, [asked]); // a refused edit
  return [
    asked ?? value,
    (n) => {
      ask(n === value ? null : n);
      onCommit(n);
    },
  ];
}

export type Notice = { kind: "bad" | "said"; text: string } | null;
export type Revised = { file: File; compared: Compared };
export type DropResult = { file: string; ok: boolean; says: string };

/** Edits that put a whole list in the place of the one that was seen: refused where that has changed, instead of taking the change back. */
const whole = (c: Record<string, unknown>) =>
  (c.kind === "set-contour" && "tabs" in c) || c.kind === "set-order";

/** Everything that changes a job. Each answer brings the whole job as it is now; errors become a notice and change nothing. */
export function useEdits(id: string) {
  const client = useQueryClient();
  const [notice, setNotice] = useState<Notice>(null);
  const [dropped, setDropped] = useState<DropResult[]>([]);
  const [revised, setRevised] = useState<Revised[]>([]);
  const take = (job: Job) => {
    client.setQueryData(["job", id], job);
    // an edit is answered at once; what holds the pieces is read when it has been worked out
    if (inHand(job)) client.invalidateQueries({ queryKey: ["job", id] });
  };
  const failed = (e: Error) => {
    setNotice({
      kind: "bad",
      text:
        e instanceof ApiError && e.status === 409
          ? `${e.message}. The job was read again; make your change on it.`
          : e.message,
    });
    if (e instanceof ApiError && (e.status === 409 || e.status === 404))
      client.invalidateQueries({ queryKey: ["job", id] });
  };
  const run = useMutation({
    mutationFn: async ({ command, seen }: { command: Record<string, unknown>; seen: number }) => {
      await client.cancelQueries({ queryKey: ["job", id] }); // an older reading must not overtake the answer
      const base = whole(command) ? seen : (client.getQueryData<Job>(["job", id])?.revision ?? 1);
      return post<Job>(`/jobs/${id}/${ASKS.has(String(command.kind)) ? "asks" : "commands"}`, {
        base,
        command,
      });
    },
    scope: { id: `edits-${id}` },
    onSuccess: (job) => {
      take(job);
      setNotice(null);
    },
    onError: failed,
  });
  const back = useMutation({
    mutationFn: (way: "undo" | "redo") => post<Job>(`/jobs/${id}/${way}`),
    scope: { id: `edits-${id}` },
    onSuccess: (job) => {
      take(job);
      setNotice(null);
    },
    onError: failed,
  });
  const send = async (f: File, setup: string, units: string, adopt?: string[]): Promise<DropResult[]> => {
    const form = new FormData();
    form.append("files", f);
    form.append("setup", setup);
    form.append("units", units);
    if (adopt) form.append("adopt", adopt.join(","));
    const answer = await call<{ results: DropResult[]; job: Job }>(`/jobs/${id}/drawings`, {
      method: "POST",
      body: form,
    }).catch((e: Error) => ({ results: [{ file: f.name, ok: false, says: e.message }], job: null }));
    if (answer.job) take(answer.job);
    return answer.results;
  };
  const say = (results: DropResult[]) => {
    const bad = results.filter((r) => !r.ok);
    if (bad.length) setNotice({ kind: "bad", text: bad.map((r) => r.says).join("  ·  ") });
    else if (results.length)
      setNotice({
        kind: "said",
        text: results.length === 1 ? results[0].says : `${results.length} files taken in`,
      });
  };
  const drop = useMutation({
    mutationFn: async (ask: { files: File[]; setup: string; units: string }) => {
      const results: DropResult[] = [],
        newer: Revised[] = [];
      const known = new Set(
        (client.getQueryData<Job>(["job", id])?.drawings ?? [])
          .filter((d) => !d.made)
          .map((d) => d.filename.toLowerCase()),
      );
      for (const f of ask.files) {
        // one by one: progress shows, and one bad file spoils nothing
        if (known.has(f.name.toLowerCase())) {
          // a newer version is shown before it is taken
          const form = new FormData();
          form.append("file", f);
          form.append("setup", ask.setup);
          try {
            const compared = await call<Compared>(`/jobs/${id}/drawings/compare`, {
              method: "POST",
              body: form,
            });
            if (compared.parts.some((p) => p.state !== "same")) newer.push({ file: f, compared });
            else results.push({ file: f.name, ok: true, says: `${f.name}: nothing in it has changed` });
          } catch (e) {
            results.push({ file: f.name, ok: false, says: (e as Error).message });
          }
        } else results.push(...(await send(f, ask.setup, ask.units)));
        setDropped([...results]);
      }
      setRevised((r) => [...r.filter((x) => newer.every((n) => n.file.name !== x.file.name)), ...newer]);
      return results;
    },
    onMutate: () => setDropped([]),
    onSuccess: say,
    onError: failed,
  });
  /** Take a newer drawing over, whole or only the parts named; null leaves it. */
  const adopt = useMutation({
    mutationFn: async (ask: { revised: Revised; setup: string; parts: string[] | null | undefined }) => {
      const results = ask.parts === null ? [] : await send(ask.revised.file, ask.setup, "auto", ask.parts);
      setRevised((r) => r.filter((x) => x !== ask.revised));
      return results;
    },
    onSuccess: say,
    onError: failed,
  });
  const more = useMutation({
    mutationFn: (ask: { path: string; body: unknown }) => post<Job>(`/jobs/${id}${ask.path}`, ask.body),
    scope: { id: `edits-${id}` },
    onSuccess: (job) => {
      take(job);
      setNotice(null);
    },
    onError: failed,
  });
  return {
    run: (command: Record<string, unknown>) =>
      run.mutate({ command, seen: client.getQueryData<Job>(["job", id])?.revision ?? 1 }),
    undo: () => back.mutate("undo"),
    redo: () => back.mutate("redo"),
    scale: (drawing: string, body: Record<string, unknown>) =>
      more.mutate({ path: `/drawings/${drawing}/scale`, body }),
    make: (body: { setup: string; recipe: Recipe; drawing?: string }) =>
      more.mutateAsync({ path: "/made", body }),
    drop: drop.mutate,
    dropping: drop.isPending,
    dropped,
    revised,
    adopt: adopt.mutate,
    busy: run.isPending || back.isPending || more.isPending || adopt.isPending,
    notice,
    setNotice,
    refresh: () => client.invalidateQueries({ queryKey: ["job", id] }),
  };
}
export type Edits = ReturnType<typeof useEdits>;

export const nestState = (id: string, setup: string, after: number) =>
  call<NestState>(`/jobs/${id}/nest?setup=${encodeURIComponent(setup)}&after=${after}`);
