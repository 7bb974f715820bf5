import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { components } from "../api/schema";

export type Rack = components["schemas"]["RackDocument"];
export type ShelfLine = components["schemas"]["ShelfLine"];
export type Lot = ShelfLine["lot"];
export type Done = components["schemas"]["Move"]["done"];
export type FitLine = components["schemas"]["FitLine"];
export type NewLot = components["schemas"]["NewLot"];
export type MonthOfMaterial = components["schemas"]["MonthOfMaterial"];
export type RackOfJob = components["schemas"]["RackOfJob"];

export const RACK = ["rack"];
export const useRack = () => useQuery({ queryKey: RACK, queryFn: () => call<Rack>("/rack") });

/** What the rack has to do with a job. */
export const useRackOfJob = (job: string, revision: number) =>
  useQuery({
    queryKey: [...RACK, job, revision],
    queryFn: () => call<RackOfJob>(`/jobs/${job}/rack`),
    placeholderData: (before) => before,
  });
