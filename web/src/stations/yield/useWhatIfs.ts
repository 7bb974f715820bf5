import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { call, post } from "../../api/client";
import type { Job, Setup } from "../../api/model";
import type { components } from "../../api/schema";

export type WhatIf = components["schemas"]["WhatIfDocument"];
export type What = components["schemas"]["AskWhatIf"]["what"];
export type Outcome = NonNullable<WhatIf["outcome"]>;
export type OnMachine = components["schemas"]["OnMachine"];

const over = (w: WhatIf) => ["done", "stopped", "failed"].includes(w.state);
const WATCH = 700;
/** ms between two looks at what is being answered. */

/** What was asked about a setup, watched while any of it is being answered, and how to ask more. */
export function useWhatIfs(job: Job, setup: Setup) {
  const client = useQueryClient();
  const at = `/jobs/${job.id}/what-ifs`;
  const key = ["what-ifs", job.id, setup.id, job.revision];
  const list = useQuery({
    queryKey: key,
    queryFn: () => call<WhatIf[]>(`${at}?setup=${encodeURIComponent(setup.id)}`),
    placeholderData: (before) => before,
    refetchInterval: (q) => (q.state.data?.some((w) => !over(w)) ? WATCH : false),
  });
  const again = () => client.invalidateQueries({ queryKey: key });
  const ask = useMutation({
    mutationFn: (ask: { what: What; seconds: number }) => post<WhatIf>(at, { setup: setup.id, ...ask }),
    onSuccess: again,
  });
  const stop = useMutation({
    mutationFn: (w: WhatIf) => post<WhatIf>(`${at}/${w.id}/stop`),
    onSuccess: again,
  });
  const forget = useMutation({
    mutationFn: (w: WhatIf) => call<WhatIf[]>(`${at}/${w.id}`, { method: "DELETE" }),
    onSuccess: (now) => client.setQueryData(key, now),
  });
  return { list, ask, stop, forget, over };
}

/** The same order on every machine of the shop. */
export const useMachines = (job: Job, setup: Setup, on: boolean) =>
  useQuery({
    queryKey: ["on-machines", job.id, setup.id, job.revision],
    queryFn: () => call<OnMachine[]>(`/jobs/${job.id}/on-machines?setup=${encodeURIComponent(setup.id)}`),
    enabled: on,
  });
