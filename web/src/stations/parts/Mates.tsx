import { useState } from "react";

import type { Edits } from "../../api/edits";
import type { Job, Setup } from "../../api/model";
import { useLibrary } from "../../api/queries";
import { PickLong } from "../../shared/PickLong";
import { length, useUnit } from "../../shared/lengths";

/** Sheets that slots are made for and that are cut elsewhere, by their measured thickness. */
export function Mates({ job, setup, edits }: { job: Job; setup: Setup; edits: Edits }) {
  const { unit } = useUnit();
  const library = useLibrary().data;
  const [open, setOpen] = useState(false);
  const mates = job.mates ?? [];
  const here = new Set(setup.stock.map((k) => k.id));
  const offered = (library?.stock ?? []).filter((s) => !here.has(s.id) && !mates.some((m) => m.id === s.id));
  return (
    <section className="mt-3 border-t border-line pt-2" aria-label="Mating sheets">
      <p className="label">
        Slots are judged against the sheets on the table
        {mates.length ? " and:" : ", not against others."}
      </p>
      {mates.map((m) => (
        <p key={m.id} className="rule flex justify-between gap-2 py-0.5 text-small">
          <span>
            {m.name}, <span className="num">{length(m.thickness, unit, unit === "mm" ? 2 : 4)}</span>
          </span>
          <button
            className="underline decoration-dotted"
            onClick={() => edits.run({ kind: "change-mates", drop: [m.id] })}
          >
            remove
          </button>
        </p>
      ))}
      {open ? (
        <PickLong
          label="mating sheet"
          placeholder="choose a sheet of the shop ..."
          value=""
          options={offered.map((s): [string, string] => [s.id, `${s.name}, ${length(s.thickness, unit, 2)}`])}
          onPick={(id) => {
            const s = offered.find((o) => o.id === id);
            if (s)
              edits.run({
                kind: "change-mates",
                add: [{ id: s.id, name: s.name, thickness: +s.thickness.toFixed(3) }],
              });
            setOpen(false);
          }}
        />
      ) : (
        offered.length > 0 && (
          <button className="key mt-1 !py-0" onClick={() => setOpen(true)}>
            + a mating sheet cut elsewhere
          </button>
        )
      )}
    </section>
  );
}
