import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { Job, Setup } from "../api/model";
import type { components } from "../api/schema";
import { useJobView } from "../job/view";

type S = components["schemas"];
export type Kerf = S["KerfDocument"];
export type KerfSheet = S["KerfSheetDocument"];
export type KerfCut = S["KerfCutDrawn"];
export type Rest = S["RestDrawn"];

/** Is a setup cut on a kerf table? */
export const onKerfTable = (setup: Setup) => !!setup.machine.head;

/** How a setup on a kerf table cuts, and every cut of its sheets; what was known stays until the new is there. */
export const useKerf = (job: Job, setup: Setup) =>
  useQuery({
    queryKey: ["kerf", job.id, setup.id, job.revision],
    queryFn: () => call<Kerf>(`/jobs/${job.id}/kerf?setup=${encodeURIComponent(setup.id)}`),
    placeholderData: (was) => (was?.setup === setup.id ? was : undefined),
    enabled: onKerfTable(setup),
    staleTime: Infinity,
    retry: false,
  });

/** The sheet that is shown, as its head cuts it; ``earlier``: as it was before the last edit, whose kerfs are on their way. */
export function useKerfSheet(): { kerf?: Kerf; sheet?: KerfSheet; earlier: boolean; wrong?: string } {
  const { job, setup, sheet } = useJobView();
  const read = useKerf(job, setup);
  return {
    kerf: read.data,
    sheet: read.data?.sheets.find((s) => s.sheet === sheet[0] && s.copy_no === sheet[1]),
    earlier: read.isPlaceholderData,
    wrong: read.error?.message,
  };
}
