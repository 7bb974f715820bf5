import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { post } from "../api/client";
import type { Library, Material } from "../api/model";
import { LengthField, plainNumber, useUnit } from "../shared/lengths";

type Said = {
  name: string;
  width: number;
  height: number;
  rpmMin: string;
  rpmMax: string;
  slots: string;
  columns: string;
  rows: string;
  change: boolean;
  inch: boolean;
};
const AT_FIRST: Said = {
  name: "Router",
  width: 0,
  height: 0,
  rpmMin: "8000",
  rpmMax: "24000",
  slots: "0",
  columns: "0",
  rows: "0",
  change: false,
  inch: false,
};

/** The zones of a vacuum table that is divided evenly. */
function evenZones(said: Said, columns: number, rows: number) {
  const zones = [];
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const w = said.width / columns,
        h = said.height / rows;
      zones.push({ id: String(zones.length + 1), rect: [c * w, r * h, (c + 1) * w, (r + 1) * h] });
    }
  return zones;
}

/** A new shop says what stands in it. Nothing is put in the library but that: no prices, nothing measured. */
export function FirstStart({ known }: { known: Material[] }) {
  const client = useQueryClient(),
    { unit } = useUnit();
  const [said, setSaid] = useState(AT_FIRST),
    [cuts, setCuts] = useState<Set<string>>(new Set()),
    [rack, setRack] = useState(true),
    [wrong, setWrong] = useState(""),
    [busy, setBusy] = useState(false);
  const set = (fields: Partial<Said>) => setSaid((s) => ({ ...s, ...fields }));
  const number = (text: string, what: string, least: number) => {
    const v = plainNumber(text);
    if (!Number.isFinite(v) || v < least) throw new Error(`${what}: give a number of at least ${least}`);
    return v;
  };
  const start = async () => {
    try {
      setBusy(true);
      if (said.width <= 0 || said.height <= 0)
        throw new Error(
          "the table: give what the cutter reaches along X and along Y, measured on the machine",
        );
      if (!cuts.size) throw new Error("choose at least one material that you cut; more come in at any time");
      const columns = number(said.columns, "zones along X", 0),
        rows = number(said.rows, "zones along Y", 0);
      const machine = {
        id: "machine-1",
        name: said.name.trim() || "Router",
        width: said.width,
        height: said.height,
        rpm_min: number(said.rpmMin, "slowest spindle", 1),
        rpm_max: number(said.rpmMax, "fastest spindle", 1),
        slots: said.change ? number(said.slots, "places in the changer", 1) : 0,
        zones: evenZones(said, columns, rows),
        dialect: {
          inch: said.inch,
          tool_change: said.change,
          name: `RS-274, ${said.inch ? "inch" : "metric"}, ${said.change ? "tool change by M6" : "one cutter a file"}`,
        },
      };
      client.setQueryData(
        ["library"],
        await post<Library>("/library/first-start", {
          machine,
          materials: [...cuts],
          usual_cutters: rack,
          unit,
        }),
      );
    } catch (e) {
      setWrong((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const text = (label: string, key: "name" | "rpmMin" | "rpmMax" | "slots" | "columns" | "rows") => (
    <label className="grid grid-cols-[minmax(0,1fr)_6.2rem] items-baseline gap-x-2 py-0.5">
      <span className="label">{label}</span>
      <input
        className={`field ${key === "name" ? "!font-sans" : "text-right"}`}
        value={said[key]}
        maxLength={80}
        onChange={(e) => set({ [key]: e.target.value })}
      />
    </label>
  );
  const pick = (on: boolean, label: string, onPick: () => void) => (
    <button type="button" className={on ? "key-strong" : "key"} aria-pressed={on} onClick={onPick}>
      {label}
    </button>
  );
  const families = [...new Set(known.map((m) => m.family))];
  return (
    <section aria-label="First start" className="h-fit border border-line bg-paper p-4">
      <h2 className="text-figure font-semibold">Which machine stands in your shop?</h2>
      <p className="label mb-2">
        Measure what the cutter reaches; the maker's plate gives the spindle. Everything can be changed later
        in the shop library.
      </p>
      <form
        className="grid gap-x-6 md:grid-cols-2"
        onSubmit={(e) => {
          e.preventDefault();
          start();
        }}
      >
        <div>
          {text("what you call it", "name")}
          <LengthField label="reach along X" mm={said.width} onCommit={(width) => set({ width })} />
          <LengthField label="reach along Y" mm={said.height} onCommit={(height) => set({ height })} />
          {text("spindle, slowest, rpm", "rpmMin")}
          {text("spindle, fastest, rpm", "rpmMax")}
          {text("vacuum zones along X (0: no vacuum)", "columns")}
          {text("vacuum zones along Y", "rows")}
          <div className="mt-1 flex flex-wrap gap-1.5" role="group" aria-label="Cutters are changed">
            {pick(!said.change, "cutters changed by hand", () => set({ change: false }))}
            {pick(said.change, "by a changer", () => set({ change: true }))}
          </div>
          {said.change && text("places in the changer", "slots")}
          <div className="mt-1.5 flex flex-wrap gap-1.5" role="group" aria-label="Programs are written">
            {pick(!said.inch, "programs in mm", () => set({ inch: false }))}
            {pick(said.inch, "programs in inches", () => set({ inch: true }))}
          </div>
        </div>
        <div>
          <h3 className="font-semibold">What do you cut?</h3>
          {families.map((f) => (
            <div key={f} className="mt-1 flex flex-wrap gap-1" role="group" aria-label={f}>
              {known
                .filter((m) => m.family === f)
                .map((m) => (
                  <button
                    key={m.id}
                    type="button"
                    className={`${cuts.has(m.id) ? "key-strong" : "key"} !px-1.5 !py-0.5 text-small`}
                    aria-pressed={cuts.has(m.id)}
                    onClick={() =>
                      setCuts((s) => {
                        const n = new Set(s);
                        if (!n.delete(m.id)) n.add(m.id);
                        return n;
                      })
                    }
                  >
                    {m.name}
                  </button>
                ))}
            </div>
          ))}
          <label className="mt-3 flex items-baseline gap-2">
            <input type="checkbox" checked={rack} onChange={(e) => setRack(e.target.checked)} />
            <span>
              Put a usual rack of cutters in, in {unit === "in" ? "inch" : "metric"} sizes{" "}
              <span className="label">nominal: measure and renumber them to yours</span>
            </span>
          </label>
          {wrong && (
            <p role="alert" className="mt-2 text-stop">
              {wrong}
            </p>
          )}
          <button className="key-strong mt-3" disabled={busy}>
            {busy ? "putting it in ..." : "This is my shop"}
          </button>
          <p className="label mt-2">
            Just looking? <span className="num">make demo</span> starts Venzo with a made-up shop and its
            jobs.
          </p>
        </div>
      </form>
    </section>
  );
}
