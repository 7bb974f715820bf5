import type { Edits } from "../../api/edits";
import { clock, type ProofSheet, type Setup } from "../../api/model";
import { Snags } from "../../shared/Snags";
import { inUnit } from "../../shared/Tokens";
import { bare, length, metres, useUnit } from "../../shared/lengths";
import { Peaks } from "./Peaks";
import { WhatIsLeft } from "./WhatIsLeft";

export function ProveDocket({ setup, proof, edits }: { setup: Setup; proof?: ProofSheet[]; edits: Edits }) {
  const { unit } = useUnit();
  if (!setup.sheets.length) return <p>There is no program to prove yet: nest the pieces first.</p>;
  if (!proof) return <p role="status">Writing the programs and reading them back ...</p>;
  const r = (v: number) => bare(v, unit, unit === "mm" ? 2 : 3);
  return (
    <>
      <h2 className="text-figure font-semibold">Read back and held against the plan</h2>
      <p className="label">
        Every program is written, read as a controller reads it, and held move for move against the plan, the
        drawn parts and what stands on the table.
      </p>
      {setup.release.leaves_out.length > 0 && (
        <section className="mt-3 border border-ink bg-[#fffdf8] px-2.5 py-1.5" aria-label="What is not cut">
          <h3 className="font-semibold">What is not cut</h3>
          <ul className="list-disc pl-5 text-small">
            {setup.release.leaves_out.map((t) => (
              <li key={t}>{inUnit(t, unit)}</li>
            ))}
          </ul>
        </section>
      )}
      <WhatIsLeft />
      <Peaks setup={setup} edits={edits} />
      {proof.map((p, i) => (
        <section key={`${p.sheet}/${p.copy_no}`} className="mt-3">
          <h3 className="font-semibold">Sheet {i + 1}</h3>
          <dl className="grid grid-cols-[1fr_auto] gap-x-3">
            <dt className="label rule py-0.5">moves</dt>
            <dd className="num rule text-right">{p.moves}</dd>
            <dt className="label rule py-0.5">time of motion, with acceleration</dt>
            <dd className="num rule text-right">{clock(p.seconds)}</dd>
            <dt className="label rule py-0.5">cutter changes</dt>
            <dd className="num rule text-right">
              {clock((setup.sheets[i]?.changes.length ?? 0) * setup.machine.change_seconds)}
            </dd>
            <dt className="label rule py-0.5">cutting / fast travel</dt>
            <dd className="num rule text-right">
              {metres(p.cut_length, unit)} / {metres(p.rapid_length, unit)}
            </dd>
            {p.lowest && p.highest && (
              <>
                <dt className="label rule py-0.5">lowest, from the top</dt>
                <dd className="num rule text-right">{length(p.lowest[2], unit)}</dd>
                <dt className="label rule py-0.5">cutter's middle, X</dt>
                <dd className="num rule text-right">
                  {r(p.lowest[0])} to {r(p.highest[0])}
                </dd>
                <dt className="label rule py-0.5">cutter's middle, Y</dt>
                <dd className="num rule text-right">
                  {r(p.lowest[1])} to {r(p.highest[1])}
                </dd>
              </>
            )}
          </dl>
          <Snags snags={p.snags} edits={edits} />
        </section>
      ))}
      <p className="label mt-3">
        Move along the tape to watch the order. Then let a second person look before machine time is booked.
      </p>
    </>
  );
}
