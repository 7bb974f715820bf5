import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { post } from "../../api/client";
import type { Edits } from "../../api/edits";
import type { Job, Setup } from "../../api/model";
import { LotDrawing } from "../../rack/LotDrawing";
import { RACK, type RackOfJob, useRackOfJob } from "../../rack/rack";
import { Section } from "../../shared/Section";
import { bare, length, useUnit } from "../../shared/lengths";

const WIDE = 64;

/** What the setup takes from the rack, what it is short of, and lots it could have. */
export function FromRack({ job, setup, edits }: { job: Job; setup: Setup; edits: Edits }) {
  const { unit } = useUnit(),
    client = useQueryClient();
  const found = useRackOfJob(job.id, job.revision);
  const [fault, setFault] = useState("");
  if (!found.data) return null;
  const planned = found.data.planned.filter((p) => p.setup === setup.id),
    offered = found.data.offered[setup.id] ?? [];
  const widest = Math.max(1, ...offered.map((s) => s.lot.width));
  const take = (lot: string) => edits.fromRack(setup.id, lot);
  const reserve = async () => {
    try {
      await post<RackOfJob>(`/jobs/${job.id}/rack/reserve`);
      client.invalidateQueries({ queryKey: RACK });
      setFault("");
    } catch (e) {
      setFault((e as Error).message);
    }
  };
  if (!planned.length && !offered.length) return null;
  const waiting = planned.some((p) => p.needed !== p.reserved);
  return (
    <Section strong open={planned.length > 0} title="From the rack" figure={`${offered.length} more`}>
      {planned.map((p) => (
        <p key={p.lot} className="rule py-1">
          <b className="num font-medium">{p.label}</b> {p.place && <span className="label">{p.place}</span>}
          <span className="label block">
            {p.needed} needed, {p.reserved} reserved, {p.on_hand} on hand
          </span>
          {p.short > 0 && (
            <span role="alert" className="block text-small text-stop">
              {p.short} short: others have reserved them, or they are gone
            </span>
          )}
        </p>
      ))}
      {planned.length > 0 && (
        <button className="key mt-1.5" onClick={reserve} disabled={!waiting}>
          {waiting ? "Reserve what the layout takes" : "Reserved as the layout takes it"}
        </button>
      )}
      {fault && (
        <p role="alert" className="mt-1 text-small text-stop">
          {fault}
        </p>
      )}
      <ul className="mt-1.5">
        {offered.map((s) => (
          <li key={s.lot.id} className="rule flex items-center gap-2 py-1">
            <span className="w-[66px] shrink-0">
              <LotDrawing family={s.family} lot={s.lot} scale={WIDE / widest} />
            </span>
            <span className="min-w-0">
              <b className="num font-medium">{s.lot.label}</b>{" "}
              <span className="label">{s.lot.remnant ? "remnant" : `${s.free} free`}</span>
              <span className="label block truncate">
                {bare(s.lot.width, unit, 0)} x {bare(s.lot.height, unit, 0)}, {length(s.thickness, unit)}
                {s.lot.place && `, ${s.lot.place}`}
              </span>
            </span>
            <button
              className="key ml-auto !py-0"
              aria-label={`Use ${s.lot.label} for this setup`}
              onClick={() => take(s.lot.id)}
            >
              Use
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}
