import { useQuery } from "@tanstack/react-query";

import { call } from "../../api/client";
import type { SheetRecord } from "../../api/model";
import { useJobView } from "../../job/view";
import { when } from "../../shared/when";

/** Whether somebody looked at each sheet's proof, and whether that still stands. */
export function LookedAt() {
  const { job, setup, sheets, show, go } = useJobView();
  const found = useQuery({
    queryKey: ["proof-records", job.id, job.revision],
    queryFn: () => call<SheetRecord[]>(`/jobs/${job.id}/proof/records`),
  });
  const mine = found.data?.filter((r) => r.setup === setup.id) ?? [];
  if (!mine.length) return null;
  return (
    <ul className="mt-2 text-small" aria-label="Who looked at the proof">
      {mine.map(({ sheet, copy_no, record: r }) => {
        const n = sheets.findIndex(([s, c]) => s === sheet && c === copy_no) + 1;
        return (
          <li key={`${sheet}/${copy_no}`} className="rule flex items-baseline gap-2 py-0.5">
            <span>Sheet {n}</span>
            <span className={r && !r.changed.length ? "" : "label"}>
              {!r
                ? "nobody has looked at its proof"
                : `${r.author || "somebody"} looked, ${when(r.made)}${r.changed.length ? `; changed since: ${r.changed.slice(0, 3).join(", ")}` : ", still as it was"}`}
            </span>
            <button
              className="key ml-auto !py-0"
              aria-label={`Prove sheet ${n}`}
              onClick={() => {
                show(sheet, copy_no);
                go("prove");
              }}
            >
              prove
            </button>
          </li>
        );
      })}
    </ul>
  );
}
