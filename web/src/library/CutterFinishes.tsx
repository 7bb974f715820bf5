import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { FinishLine } from "../api/model";
import { FinishTable } from "../stations/log/Finishes";

/** What edges looked like that this cutter left, on any job. */
export function CutterFinishes({ cutter }: { cutter: string }) {
  const found = useQuery({
    queryKey: ["finishes of", cutter],
    queryFn: () => call<FinishLine[]>(`/library/cutter/${encodeURIComponent(cutter)}/finishes`),
  });
  if (!found.data?.length) return null;
  return (
    <section aria-label="Edges it left" className="mt-3 border-t border-line pt-2">
      <h3 className="font-semibold">Edges it left</h3>
      <FinishTable lines={found.data} />
    </section>
  );
}
