import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import { call } from "../../api/client";
import type { CutSection, Left, LeftRemedies, UnderPointer, XY } from "../../api/model";
import { useJobView } from "../../job/view";
import type { CutPicture } from "../../table/CutLayer";
import { useSheetAt } from "../../tape/useMoment";

/** ms that the pointer rests before it is asked what lies under it. */
const REST = 80;

/** Where the picture of the sheet as it is cut is fetched, with a line ``every`` mm of depth; ``models``: held against its reliefs. */
export function useCutPicture(every: number, models = false): CutPicture {
  const { job } = useJobView(),
    at = useSheetAt();
  return useMemo(
    () => (area, px) =>
      `/api/jobs/${job.id}/cut.webp?${at}&revision=${job.revision}&every=${every.toFixed(4)}${models ? "&against_models=true" : ""}&px=${px}&area=${area.map((v) => +v.toFixed(2)).join(",")}`,
    [job.id, job.revision, every, at, models],
  );
}

/** What the sheet is like under a point, asked when the point rests. */
export function useUnderPointer(point: XY | null): UnderPointer | null {
  const { job } = useJobView(),
    at = useSheetAt();
  const [rested, setRested] = useState<XY | null>(null);
  const [x, y] = point ?? [null, null];
  useEffect(() => {
    const t = setTimeout(() => setRested(x === null || y === null ? null : [x, y]), REST);
    return () => clearTimeout(t);
  }, [x, y]);
  const asked = rested && rested[0] === x && rested[1] === y;
  const found = useQuery({
    queryKey: ["cut-at", job.id, job.revision, at, rested],
    enabled: !!asked,
    queryFn: () =>
      call<UnderPointer | null>(
        `/jobs/${job.id}/cut/at?${at}&x=${rested![0].toFixed(2)}&y=${rested![1].toFixed(2)}`,
      ),
    gcTime: 5_000,
    retry: false,
  });
  return (asked && found.data) || null;
}

/** The section along a line of two points. */
export function useSection([a, b]: XY[]) {
  const { job } = useJobView(),
    at = useSheetAt();
  return useQuery({
    queryKey: ["cut-section", job.id, job.revision, at, a, b],
    enabled: !!a && !!b,
    queryFn: () =>
      call<CutSection>(`/jobs/${job.id}/cut/section?${at}&x0=${a[0]}&y0=${a[1]}&x1=${b[0]}&y1=${b[1]}`),
    placeholderData: (was) => was,
    retry: false,
  });
}

/** What takes away what stands; tried by the server, which takes a moment. */
export function useLeftRemedies(wanted: boolean) {
  const { job, setup, sheet } = useJobView();
  const q = new URLSearchParams({ setup: setup.id, sheet: sheet[0], copy_no: String(sheet[1]) });
  return useQuery({
    queryKey: ["cut-left-remedies", job.id, job.revision, q.toString()],
    enabled: wanted,
    queryFn: () => call<LeftRemedies[]>(`/jobs/${job.id}/cut/left/remedies?${q}`),
    retry: false,
  });
}

/** What stands where the drawing wants nothing, once the sheet that is shown is cut. */
export function useLeft() {
  const { job, setup, sheet, plan } = useJobView();
  const q = new URLSearchParams({ setup: setup.id, sheet: sheet[0], copy_no: String(sheet[1]) });
  return useQuery({
    queryKey: ["cut-left", job.id, job.revision, q.toString()],
    enabled: !!plan?.cuts.length,
    queryFn: () => call<Left[]>(`/jobs/${job.id}/cut/left?${q}`),
    retry: false,
  });
}
