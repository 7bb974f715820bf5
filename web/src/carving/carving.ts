import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call } from "../api/client";
import { type Edits } from "../api/edits";
import { type CarvingView, type InlayView, type Job, type Part, type Setup } from "../api/model";
import { isUp, partsIn } from "../job/partsIn";

export type InlayAsk = { depth: number; gap: number; saw: number; clear: number | null; y: number | null };

/** ``stopped``: work that somebody stopped, by its key; it is not asked for again until it is gone on with. */
export type CarveLook = { part: string | null; path: boolean; inlay: InlayAsk | null; stopped: string };

export const NO_LOOK: CarveLook = { part: null, path: false, inlay: null, stopped: "" };

/** Parts with closed shapes that can be carved. */
export const carvable = (job: Job, setup: Setup): Part[] =>
  partsIn(job, setup).filter((p) =>
    p.features.some(
      (f) => isUp(setup, f) && (f.kind === "engraving" || f.kind === "pocket") && f.d.endsWith("Z"),
    ),
  );

export const chosen = (job: Job, setup: Setup, look: CarveLook): Part | undefined => {
  const all = carvable(job, setup);
  return all.find((p) => p.id === look.part) ?? all.find((p) => stepOf(setup, p)) ?? all[0];
};

export const stepOf = (setup: Setup, part: Part) =>
  setup.contours[part.id]?.flatMap((c) => c.steps).find((s) => s.kind === "v-carve");

const carvingKey = (job: Job, setup: Setup, part: Part | undefined) =>
  ["carving", job.id, job.revision, setup.id, part?.id] as const;

export const useCarving = (job: Job, setup: Setup, part: Part | undefined, look: CarveLook) => {
  const queryKey = carvingKey(job, setup, part);
  return useQuery<CarvingView>({
    queryKey,
    enabled: !!part && !!setup.contours[part.id] && look.stopped !== JSON.stringify(queryKey),
    staleTime: Infinity,
    placeholderData: (was) => (was?.part === part?.id ? was : undefined),
    queryFn: ({ signal }) =>
      call<CarvingView>(`/jobs/${job.id}/carving?setup=${encodeURIComponent(setup.id)}&part=${part!.id}`, {
        signal,
      }),
  });
};

/** A key that stops the carving or the inlay that is worked out, there and here. */
export function useStop(
  job: Job,
  setup: Setup,
  part: Part,
  look: CarveLook,
  setLook: (l: CarveLook) => void,
) {
  const client = useQueryClient();
  const of = (queryKey: readonly unknown[]) => {
    const stopped = JSON.stringify(queryKey);
    return {
      stopped: look.stopped === stopped,
      onStop: () => {
        setLook({ ...look, stopped });
        client.cancelQueries({ queryKey });
      },
      onGoOn: () => setLook({ ...look, stopped: "" }),
    };
  };
  return {
    carving: of(carvingKey(job, setup, part)),
    inlay: of(inlayKey(job, setup, part, look.inlay)),
  };
}

export const inlayQuery = (setup: Setup, part: Part, ask: InlayAsk) =>
  `setup=${encodeURIComponent(setup.id)}&part=${part.id}&depth=${ask.depth}&gap=${ask.gap}&saw=${ask.saw}${ask.clear ? `&clear=${ask.clear}` : ""}`;

const inlayKey = (job: Job, setup: Setup, part: Part | undefined, ask: InlayAsk | null) =>
  ["inlay", job.id, part?.shape, setup.id, ask] as const;

export const useInlay = (job: Job, setup: Setup, part: Part | undefined, look: CarveLook) => {
  const ask = look.inlay,
    queryKey = inlayKey(job, setup, part, ask);
  return useQuery<InlayView>({
    queryKey,
    enabled: !!part && !!ask && look.stopped !== JSON.stringify(queryKey),
    staleTime: Infinity,
    retry: false,
    placeholderData: (was) => was,
    queryFn: ({ signal }) =>
      call<InlayView>(
        `/jobs/${job.id}/inlay?${inlayQuery(setup, part!, ask!)}${ask!.y === null ? "" : `&y=${ask!.y}`}`,
        { signal },
      ),
  });
};

export type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  look: CarveLook;
  setLook: (l: CarveLook) => void;
};
