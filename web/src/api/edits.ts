import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { ApiError, call, post } from "./client";
import type { Command, Compared, Job, Recipe } from "./model";
import { inHand } from "./queries";

/** Commands that need the drawing or the geometry itself, not only the plan. */
const ASKS = new Set([
  "read-again",
  "alter-part",
  "find-place",
  "move-cut",
  "remake",
  "change-model",
  "make-surface",
  "change-forms",
  "place-dowels",
  "place-along",
]);
export type Notice = { kind: "bad" | "said"; text: string } | null;
export type Revised = { file: File; compared: Compared };
export type DropResult = { file: string; ok: boolean; says: string };

/** Edits that put a whole list in the place of the one that was seen: refused where that has changed, instead of taking the change back. */
const whole = (c: Command) => (c.kind === "set-contour" && "tabs" in c) || c.kind === "set-order";

/** Where a command goes, and the revision it is made on: what others changed meanwhile does not matter to an edit that names
 * its fields, and does to one that puts a whole list in place of the one that was seen. */
export const asked = (command: Command, seen: number, known: number) => ({
  path: ASKS.has(command.kind) ? "asks" : "commands",
  base: whole(command) ? seen : known,
});

/** Everything that changes a job. Each answer brings the whole job as it is now; errors become a notice and change nothing. */
export function useEdits(id: string) {
  const client = useQueryClient();
  const [notice, setNotice] = useState<Notice>(null);
  const [lost, setLost] = useState<ApiError | null>(null);
  const [dropped, setDropped] = useState<DropResult[]>([]);
  const [revised, setRevised] = useState<Revised[]>([]);
  const take = (job: Job) => {
    setLost(null);
    client.setQueryData(["job", id], job);
    // an edit is answered at once; what holds the pieces is read when it has been worked out
    if (inHand(job)) client.invalidateQueries({ queryKey: ["job", id] });
  };
  const failed = (e: Error) => {
    if (e instanceof ApiError && e.status === 0) setLost(e);
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
    mutationFn: async ({ command, seen }: { command: Command; seen: number }) => {
      await client.cancelQueries({ queryKey: ["job", id] }); // an older reading must not overtake the answer
      const known = client.getQueryData<Job>(["job", id])?.revision ?? 1;
      const { path, base } = asked(command, seen, known);
      return post<Job>(`/jobs/${id}/${path}`, { base, command });
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
  /** A model or a picture of heights set on a part; ``into``: a picture that becomes a texture of this relief made here. */
  const model = useMutation({
    mutationFn: async (ask: {
      part: string;
      file: File;
      into?: number;
      smooth?: number;
      blackHigh?: boolean;
      /** It is a drawing of the part's back, seen from there or from the front. */
      back?: "the back" | "the front";
    }) => {
      const form = new FormData();
      form.append("file", ask.file);
      const base = client.getQueryData<Job>(["job", id])?.revision ?? 1,
        to = ask.back
          ? `back?base=${base}&seen_from=${encodeURIComponent(ask.back)}`
          : ask.into === undefined
            ? `model?base=${base}&smooth=${ask.smooth ?? 0}&black_high=${!!ask.blackHigh}`
            : `texture?base=${base}&number=${ask.into}`;
      return call<Job>(`/jobs/${id}/parts/${encodeURIComponent(ask.part)}/${to}`, {
        method: "POST",
        body: form,
      });
    },
    scope: { id: `edits-${id}` },
    onSuccess: (job) => {
      take(job);
      setNotice(null);
    },
    onError: failed,
  });
  return {
    setModel: model.mutate,
    settingModel: model.isPending,
    /** A drawing of a part's back is laid the next way in which its outline fits. */
    turnBack: (part: string, number: number) =>
      more.mutate({
        path: `/parts/${encodeURIComponent(part)}/back/turn?base=${client.getQueryData<Job>(["job", id])?.revision ?? 1}&number=${number}`,
        body: {},
      }),
    run: (command: Command) =>
      run.mutate({ command, seen: client.getQueryData<Job>(["job", id])?.revision ?? 1 }),
    undo: () => back.mutate("undo"),
    redo: () => back.mutate("redo"),
    bringBack: (revision: number) => more.mutateAsync({ path: "/bring-back", body: { revision } }),
    scale: (drawing: string, body: Record<string, unknown>) =>
      more.mutate({ path: `/drawings/${drawing}/scale`, body }),
    addSetup: (body: { base: number; material: string; machine?: string }) =>
      more.mutateAsync({ path: "/setups", body }),
    fromRack: (setup: string, lot: string) =>
      more.mutate({
        path: "/rack",
        body: { base: client.getQueryData<Job>(["job", id])?.revision ?? 1, setup, lot },
      }),
    make: (body: { setup: string; recipe: Recipe; drawing?: string }) =>
      more.mutateAsync({ path: "/made", body }),
    drop: drop.mutate,
    dropping: drop.isPending,
    dropped,
    revised,
    adopt: adopt.mutate,
    busy: run.isPending || back.isPending || more.isPending || adopt.isPending || model.isPending,
    notice,
    setNotice,
    /** The server does not answer. */
    lost,
    refresh: () => client.invalidateQueries({ queryKey: ["job", id] }),
  };
}
export type Edits = ReturnType<typeof useEdits>;
