import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { LoadDocument } from "../api/model";
import { useJobView } from "../job/view";

/** What every moment of the sheet that is shown asks of cutter, spindle and machine. */
export function useLoads() {
  const { job, setup, sheet, plan } = useJobView();
  const q = new URLSearchParams({ setup: setup.id, sheet: sheet[0], copy_no: String(sheet[1]) });
  return useQuery({
    queryKey: ["cut-load", job.id, job.revision, q.toString()],
    enabled: !!plan?.cuts.length,
    queryFn: () => call<LoadDocument>(`/jobs/${job.id}/cut/load?${q}`),
    placeholderData: (was) => was,
    retry: false,
  });
}
