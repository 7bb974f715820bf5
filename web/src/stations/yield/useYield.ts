import { useQuery } from "@tanstack/react-query";

import { call } from "../../api/client";
import type { Job } from "../../api/model";
import type { components } from "../../api/schema";

export type JobUse = components["schemas"]["JobUse"];
export type UsedSheet = components["schemas"]["UsedSheet"];
export type SetupUse = components["schemas"]["SetupUse"];
export type Use = components["schemas"]["Use"];
export type UsedSheetDrawn = components["schemas"]["UsedSheetDrawn"];

/** What the job takes and costs as it is now; what was known before stays while it is worked out anew. */
export const useYield = (job: Job) =>
  useQuery({
    queryKey: ["yield", job.id, job.revision],
    queryFn: ({ signal }) => call<JobUse>(`/jobs/${job.id}/yield`, { signal }),
    placeholderData: (before) => before,
    retry: 1,
    staleTime: Infinity,
  });

/** One sheet as what becomes of it. */
export const useDrawn = (job: Job, s: UsedSheet) =>
  useQuery({
    queryKey: ["yield-drawn", job.id, job.revision, s.setup, s.sheet, s.sheet_copy],
    queryFn: ({ signal }) =>
      call<UsedSheetDrawn>(
        `/jobs/${job.id}/yield/drawn?setup=${encodeURIComponent(s.setup)}&sheet=${encodeURIComponent(s.sheet)}&copy_no=${s.sheet_copy}`,
        { signal },
      ),
    staleTime: Infinity,
  });
