import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import { type Edits } from "../api/edits";
import { type CarvingView, type InlayView, type Job, type Part, type Setup } from "../api/model";

export type InlayAsk = { depth: number; gap: number; saw: number; clear: number | null; y: number | null };

export type CarveLook = { part: string | null; path: boolean; inlay: InlayAsk | null };

export const NO_LOOK: CarveLook = { part: null, path: false, inlay: null };

/** Parts with closed shapes that can be carved. */
export const carvable = (job: Job, setup: Setup): Part[] =>
  job.parts.filter(
    (p) =>
      p.setup === setup.id &&
      p.features.some((f) => (f.kind === "engraving" || f.kind === "pocket") && f.d.endsWith("Z")),
  );

export const chosen = (job: Job, setup: Setup, look: CarveLook): Part | undefined => {
  const all = carvable(job, setup);
  return all.find((p) => p.id === look.part) ?? all.find((p) => stepOf(setup, p)) ?? all[0];
};

export const stepOf = (setup: Setup, part: Part) =>
  setup.contours[part.id]?.flatMap((c) => c.steps).find((s) => s.kind === "v-carve");

export const useCarving = (job: Job, setup: Setup, part: Part | undefined) =>
  useQuery({
    queryKey: ["carving", job.id, job.revision, setup.id, part?.id],
    enabled: !!part && !!setup.contours[part.id],
    staleTime: Infinity,
    placeholderData: (was: CarvingView | undefined) => (was?.part === part?.id ? was : undefined),
    queryFn: () =>
      call<CarvingView>(`/jobs/${job.id}/carving?setup=${encodeURIComponent(setup.id)}&part=${part!.id}`),
  });

export const inlayQuery = (setup: Setup, part: Part, ask: InlayAsk) =>
  `setup=${encodeURIComponent(setup.id)}&part=${part.id}&depth=${ask.depth}&gap=${ask.gap}&saw=${ask.saw}${ask.clear ? `&clear=${ask.clear}` : ""}`;

export const useInlay = (job: Job, setup: Setup, part: Part | undefined, ask: InlayAsk | null) =>
  useQuery({
    queryKey: ["inlay", job.id, part?.shape, setup.id, ask],
    enabled: !!part && !!ask,
    staleTime: Infinity,
    retry: false,
    placeholderData: (was: InlayView | undefined) => was,
    queryFn: () =>
      call<InlayView>(
        `/jobs/${job.id}/inlay?${inlayQuery(setup, part!, ask!)}${ask!.y === null ? "" : `&y=${ask!.y}`}`,
      ),
  });

export type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  look: CarveLook;
  setLook: (l: CarveLook) => void;
};
