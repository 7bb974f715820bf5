import { useState } from "react";

import { call, post } from "../api/client";
import type { Cutter, Setup } from "../api/model";
import { useLibrary } from "../api/queries";
import { Pick } from "../shared/Pick";
import { bare, LengthField, plainNumber, useUnit } from "../shared/lengths";

const SHAPED = ["roundover", "point roundover", "bowl"];

/** A cutter the shop has just bought: entered where it is needed, with feeds proposed for this job's material, and taken into the job. */
export function NewCutter({
  kinds,
  setup,
  onMade,
  onClose,
}: {
  kinds: string[];
  setup: Setup;
  onMade: (c: Cutter) => void;
  onClose: () => void;
}) {
  const library = useLibrary(),
    { unit } = useUnit();
  const taken = new Set(library.data?.cutter.map((c) => c.number)),
    free = Array.from({ length: 999 }, (_, k) => k + 1).find((n) => !taken.has(n)) ?? 1;
  const [kind, setKind] = useState(kinds[0]),
    [diameter, setDiameter] = useState(unit === "mm" ? 6 : 6.35),
    [edge, setEdge] = useState(unit === "mm" ? 22 : 22.225),
    [shank, setShank] = useState(unit === "mm" ? 6 : 6.35);
  const [radius, setRadius] = useState(3),
    [angle, setAngle] = useState("60"),
    [flutes, setFlutes] = useState("2"),
    [number, setNumber] = useState(String(free)),
    [wrong, setWrong] = useState(""),
    [busy, setBusy] = useState(false);
  const pointed = ["v-bit", "drill", "tapered ball"].includes(kind);
  const keep = async () => {
    setBusy(true);
    try {
      const id = `cutter-${Date.now().toString(36)}`;
      const shape = {
        ...(pointed ? { angle: plainNumber(angle) } : {}),
        ...(SHAPED.includes(kind) ? { corner_radius: radius } : {}),
      };
      const name = `${bare(diameter, unit)} ${unit} ${kind === "v-bit" ? `V bit, ${angle} degrees` : kind}`;
      await call("/library/cutter", {
        method: "PUT",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({
          id,
          number: plainNumber(number),
          name,
          kind,
          diameter,
          flutes: plainNumber(flutes),
          cutting_length: edge,
          shank,
          ...shape,
        }),
      });
      await library.refetch();
      onMade(await post<Cutter>(`/library/cutter/${id}/feeds`, { material: setup.material.id }));
      onClose();
    } catch (e) {
      setWrong((e as Error).message);
      setBusy(false);
    }
  };
  const plain = (label: string, value: string, set: (v: string) => void) => (
    <label className="grid grid-cols-[minmax(0,1fr)_6.2rem] items-baseline gap-x-2 py-0.5">
      <span className="label">{label}</span>
      <input
        className="field text-right"
        value={value}
        maxLength={12}
        onChange={(e) => set(e.target.value)}
      />
    </label>
  );
  return (
    <form
      className="mt-1 border border-ink bg-white p-2"
      aria-label="A new cutter"
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <label className="grid grid-cols-[minmax(0,1fr)_9rem] items-baseline gap-x-2 py-0.5">
        <span className="label">kind</span>
        <Pick
          label="kind"
          value={kind}
          options={kinds.map((k): [string, string] => [k, k])}
          onPick={setKind}
        />
      </label>
      <LengthField label="diameter" mm={diameter} onCommit={setDiameter} />
      <LengthField label="length of its edge" mm={edge} onCommit={setEdge} />
      <LengthField label="shank" mm={shank} onCommit={setShank} />
      {pointed && plain("included angle, degrees", angle, setAngle)}
      {SHAPED.includes(kind) && <LengthField label="corner radius" mm={radius} onCommit={setRadius} />}
      {plain("flutes", flutes, setFlutes)}
      {plain("tool number", number, setNumber)}
      <p className="label">
        Kept in the shop library, with feeds for {setup.material.name.toLowerCase()} from the middle of its
        window: look them over there.
      </p>
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-1 flex gap-1.5">
        <button className="key-strong !py-0.5" disabled={busy}>
          Cut with it
        </button>
        <button type="button" className="key !py-0.5" onClick={onClose}>
          Leave it
        </button>
      </div>
    </form>
  );
}
