import { useState } from "react";

import { useLibrary } from "../api/queries";
import { Pick } from "../shared/Pick";
import { LengthField, readCorners, useUnit } from "../shared/lengths";
import type { NewLot } from "./rack";

const START: NewLot = {
  material: "",
  name: "",
  width: 2440,
  height: 1220,
  nominal: 18,
  count: 1,
  readings: [],
  grain: null,
  grade: "",
  face: "",
  batch: "",
  price: null,
  place: "",
  margin: 10,
  outline: [],
  flaws: [],
  remnant: false,
  note: "",
};

/** What came in: sheets, or a remnant with its corners. */
export function NewLotForm({ onReceive }: { onReceive: (lot: NewLot) => Promise<boolean> }) {
  const { unit } = useUnit();
  const materials = useLibrary().data?.material ?? [];
  const [lot, setLot] = useState<NewLot>(START),
    [count, setCount] = useState("1"),
    [price, setPrice] = useState(""),
    [corners, setCorners] = useState(""),
    [wrong, setWrong] = useState("");
  const set = (f: Partial<NewLot>) => setLot((now) => ({ ...now, ...f }));
  const material = lot.material || materials[0]?.id || "";
  const receive = async () => {
    try {
      const outline = await readCorners(corners, unit);
      if (outline.length && outline.length < 3) throw new Error("an outline needs at least three corners");
      const n = Number(count),
        p = price.trim() ? Number(price.replace(",", ".")) : null;
      if (!(Number.isInteger(n) && n >= 1)) throw new Error(`${count || "nothing"} is no number of sheets`);
      if (p !== null && !(p >= 0)) throw new Error(`${price} is no price`);
      setWrong("");
      if (await onReceive({ ...lot, material, outline, count: n, price: p })) {
        setCorners("");
        setCount("1");
      }
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const text = (label: string, k: "grade" | "face" | "batch" | "place") => (
    <label className="grid grid-cols-[minmax(0,1fr)_6.2rem] items-baseline gap-x-2 py-0.5">
      <span className="label">{label}</span>
      <input
        className="field !font-sans"
        maxLength={200}
        value={lot[k]}
        onChange={(e) => set({ [k]: e.target.value })}
      />
    </label>
  );
  return (
    <section aria-label="Something came in" className="border border-line bg-paper p-3">
      <h2 className="font-semibold">Something came in</h2>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {([false, true] as const).map((r) => (
          <button
            key={String(r)}
            className={lot.remnant === r ? "key-strong" : "key"}
            aria-pressed={lot.remnant === r}
            onClick={() => set({ remnant: r })}
          >
            {r ? "a remnant" : "sheets"}
          </button>
        ))}
        <Pick
          label="material"
          value={material}
          options={materials.map((m): [string, string] => [m.id, m.name])}
          onPick={(m) => set({ material: m })}
        />
      </div>
      <label className="grid grid-cols-[minmax(0,1fr)_6.2rem] items-baseline gap-x-2 py-0.5">
        <span className="label">how many</span>
        <input className="field text-right" value={count} onChange={(e) => setCount(e.target.value)} />
      </label>
      <LengthField label="width, along X" mm={lot.width} onCommit={(width) => set({ width })} />
      <LengthField label="height, along Y" mm={lot.height} onCommit={(height) => set({ height })} />
      <LengthField label="nominal thickness" mm={lot.nominal} onCommit={(nominal) => set({ nominal })} />
      <label className="grid grid-cols-[minmax(0,1fr)_6.2rem] items-baseline gap-x-2 py-0.5">
        <span className="label">price of a sheet</span>
        <input
          className="field text-right"
          value={price}
          placeholder="not known"
          onChange={(e) => setPrice(e.target.value)}
        />
      </label>
      <div className="my-1 flex flex-wrap gap-1.5" role="group" aria-label="Grain">
        {(
          [
            [null, "no grain"],
            [0, "along X"],
            [90, "along Y"],
          ] as const
        ).map(([g, t]) => (
          <button
            key={t}
            className={lot.grain === g ? "key-strong" : "key"}
            aria-pressed={lot.grain === g}
            onClick={() => set({ grain: g })}
          >
            {t}
          </button>
        ))}
      </div>
      {text("place", "place")}
      {text("grade", "grade")}
      {text("face", "face")}
      {text("batch or heat", "batch")}
      <label className="block">
        <span className="label">corners of an irregular one, X, Y; X, Y; ... in {unit}</span>
        <input className="field w-full" value={corners} onChange={(e) => setCorners(e.target.value)} />
      </label>
      <button className="key-strong mt-2" onClick={receive} disabled={!material}>
        Put it in the rack
      </button>
      {wrong && (
        <p role="alert" className="mt-1 text-small text-stop">
          {wrong}
        </p>
      )}
    </section>
  );
}
