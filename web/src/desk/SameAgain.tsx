import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call, post } from "../api/client";
import type { AskedAgain, DeskJob, JobLine } from "../api/model";
import { Over } from "../shared/Over";
import { inUnit } from "../shared/Tokens";
import { bare, length, readLength, readLengths, type Unit, useUnit } from "../shared/lengths";

type Typed = Record<string, string>;
const key = (setup: string, thing: string) => `${setup}/${thing}`;

/** The last plan on new stock: asks for the new thickness, the zero and the cutters, and nothing else. */
export default function SameAgain({ job, close }: { job: DeskJob; close: () => void }) {
  const go = useNavigate(),
    { unit } = useUnit();
  const asked = useQuery({
    queryKey: ["again", job.id, job.revision],
    queryFn: () => call<AskedAgain>(`/jobs/${job.id}/again`),
  });
  const [thick, setThick] = useState<Typed>({}),
    [across, setAcross] = useState<Typed>({}),
    [wrong, setWrong] = useState("");
  const a = asked.data;
  const start = async () => {
    try {
      const body = await told(a!, thick, across, unit);
      const made = await post<JobLine>(`/jobs/${job.id}/once-more`, { how: "again", ...body });
      go(`/job/${made.id}/stock`);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <Over title={`${job.name}, the same again`} size="form" keyed={false} close={close}>
      <p className="label">
        Layout, steps and order stay. Measure the new sheets; look at the zero and the cutters in the machine.
      </p>
      {asked.error && (
        <p role="alert" className="text-stop">
          {asked.error.message}
        </p>
      )}
      {!a && !asked.error && <p role="status">reading the plan ...</p>}
      {a && (
        <form
          className="mt-2"
          onSubmit={(e) => {
            e.preventDefault();
            start();
          }}
        >
          {a.setups.map((s) => (
            <section key={s.id} aria-label={s.name} className="mb-3 border-t border-line pt-2">
              <h3 className="font-semibold">{s.name}</h3>
              {s.stock.map((k) => (
                <label key={k.id} className="grid grid-cols-[minmax(0,1fr)_12rem] items-baseline gap-2">
                  <span>
                    {k.name}{" "}
                    <span className="label">last {length(k.thickness, unit)}; several readings help</span>
                  </span>
                  <input
                    className="field text-right"
                    required
                    aria-label={`Thickness of ${k.name}, ${unit}`}
                    placeholder={bare(k.thickness, unit)}
                    value={thick[key(s.id, k.id)] ?? ""}
                    onChange={(e) => setThick({ ...thick, [key(s.id, k.id)]: e.target.value })}
                  />
                </label>
              ))}
              <label className="my-1 flex items-baseline gap-2">
                <input type="checkbox" required className="accent-accent" />
                <span>
                  The zero is set like this: {inUnit(s.touch_off, unit)}{" "}
                  <span className="label">It can be changed at Stock &amp; table.</span>
                </span>
              </label>
              {s.cutters.map((c) => (
                <label key={c.id} className="grid grid-cols-[minmax(0,1fr)_12rem] items-baseline gap-2">
                  <span>
                    T<span className="num">{c.number}</span> {c.name}
                  </span>
                  <input
                    className="field text-right"
                    aria-label={`Diameter of ${c.name}, ${unit}`}
                    value={across[key(s.id, c.id)] ?? bare(c.diameter, unit, unit === "mm" ? 3 : 4)}
                    onChange={(e) => setAcross({ ...across, [key(s.id, c.id)]: e.target.value })}
                  />
                </label>
              ))}
            </section>
          ))}
          {wrong && (
            <p role="alert" className="mb-2 text-stop">
              {wrong}
            </p>
          )}
          <div className="flex gap-2">
            <button className="key-strong">Make it</button>
            <button type="button" className="key" onClick={close}>
              Cancel
            </button>
          </div>
        </form>
      )}
    </Over>
  );
}

/** What was typed, read: only cutters that were typed over are sent. */
async function told(a: AskedAgain, thick: Typed, across: Typed, unit: Unit) {
  const stock = [],
    cutters = [];
  for (const s of a.setups) {
    for (const k of s.stock)
      stock.push({
        setup: s.id,
        stock: k.id,
        readings: await readLengths(thick[key(s.id, k.id)] ?? "", unit),
      });
    for (const c of s.cutters) {
      const text = across[key(s.id, c.id)];
      if (text !== undefined)
        cutters.push({ setup: s.id, cutter: c.id, diameter: (await readLength(text, unit)).mm });
    }
  }
  return { stock, cutters };
}
