import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { type SheetChoice, type TableRun } from "../api/model";
import { useJobs } from "../api/queries";
import { Pick } from "../shared/Pick";
import { length, useUnit } from "../shared/lengths";
import { type ChangeRun } from "./change";

/** The first square of the grid on which nothing lies. */
const freeSquare = (d: TableRun) => {
  const taken = new Set(d.run.sheets.map((s) => s.square));
  let n = 1;
  while (taken.has(n)) n++;
  return n;
};

/** One more sheet of a job, laid on the next free square. */
export function LayASheet({ d, change }: { d: TableRun; change: (c: ChangeRun) => void }) {
  const jobs = useJobs("parts"),
    [job, setJob] = useState(""),
    { unit } = useUnit();
  const sheets = useQuery({
    queryKey: ["sheets", job],
    enabled: !!job,
    queryFn: () => call<SheetChoice[]>(`/sheets/${job}`),
  });
  const lies = (s: SheetChoice) =>
    d.run.sheets.some(
      (o) => o.job === s.job && o.setup === s.setup && o.sheet === s.sheet && o.copy_no === s.copy_no,
    );
  const lay = (s: SheetChoice) => {
    const taken = new Set(d.run.sheets.map((o) => o.id));
    let n = 1;
    while (taken.has(`sheet-${n}`)) n++;
    const { job: of, setup, sheet, copy_no } = s;
    change({
      add: [{ id: `sheet-${n}`, job: of, setup, sheet, copy_no, square: freeSquare(d) }],
    });
  };
  return (
    <section className="mt-3 text-small" aria-label="Lay a sheet">
      <p>
        Lay a sheet of{" "}
        <Pick
          label="job"
          value={job}
          options={[["", "choose a job"], ...(jobs.data ?? []).map((j): [string, string] => [j.id, j.name])]}
          onPick={setJob}
        />
      </p>
      {sheets.isLoading && <p role="status">reading its sheets ...</p>}
      {sheets.error && (
        <p role="alert" className="text-stop">
          {sheets.error.message}
        </p>
      )}
      {sheets.data?.length === 0 && (
        <p className="text-quiet">It has no planned sheet yet: nest its parts.</p>
      )}
      <ul>
        {sheets.data?.map((s) => (
          <li key={`${s.setup}/${s.sheet}/${s.copy_no}`} className="flex items-baseline gap-2 py-0.5">
            <button className="key !py-0" disabled={lies(s)} onClick={() => lay(s)}>
              Lay
            </button>
            <span>
              {s.called}{" "}
              <span className="num text-quiet">
                {length(s.width, unit, 0)} x {length(s.height, unit, 0)}
              </span>
              {d.machine && s.machine !== d.machine && <span className="text-look">, on {s.machine}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
