import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { CutMoment } from "../api/model";
import { useJobView } from "../job/view";

/** Tenths of a second to which a moment is rounded, so that what was asked once serves again. */
const moment = (time: number | null) => (time === null ? null : Math.round(time * 10) / 10);

/** What names the sheet that is shown, at the moment on the tape. */
export function useSheetAt(): string {
  const { setup, sheet, time } = useJobView();
  const at = moment(time);
  const q = new URLSearchParams({ setup: setup.id, sheet: sheet[0], copy_no: String(sheet[1]) });
  if (at !== null) q.set("seconds", String(at));
  return q.toString();
}

/** Where the cutter is at the moment on the tape; what was seen last stays until the next is there. */
export function useMoment(): CutMoment | null {
  const { job, time, plan } = useJobView(),
    at = useSheetAt();
  const found = useQuery({
    queryKey: ["cut-moment", job.id, job.revision, at],
    enabled: time !== null && !!plan?.cuts.length,
    queryFn: () => call<CutMoment | null>(`/jobs/${job.id}/cut/moment?${at}`),
    placeholderData: (was) => was,
    gcTime: 5_000,
    retry: false,
  });
  return (time !== null && found.data) || null;
}
