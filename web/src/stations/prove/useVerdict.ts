import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { call, post } from "../../api/client";
import type { SheetVerdict } from "../../api/model";
import { useJobView } from "../../job/view";

/** The verdict on the sheet that is shown, and the record that somebody looked. */
export function useVerdict() {
  const { job, setup, sheet, plan } = useJobView(),
    client = useQueryClient();
  const at = new URLSearchParams({ setup: setup.id, sheet: sheet[0], copy_no: String(sheet[1]) }).toString();
  const queryKey = ["verdict", job.id, job.revision, at];
  const found = useQuery({
    queryKey,
    enabled: !!plan?.cuts.length,
    queryFn: () => call<SheetVerdict>(`/jobs/${job.id}/proof/sheet?${at}`),
    retry: false,
  });
  const look = useMutation({
    mutationFn: (note: string) =>
      post<SheetVerdict>(`/jobs/${job.id}/proof/sheet`, {
        setup: setup.id,
        sheet: sheet[0],
        sheet_copy: sheet[1],
        seen: found.data?.seen,
        note,
      }),
    onSuccess: (now) => {
      client.setQueryData(queryKey, now);
      client.invalidateQueries({ queryKey: ["proof-records", job.id] });
    },
    onError: () => client.invalidateQueries({ queryKey }),
  });
  return { found, look };
}
