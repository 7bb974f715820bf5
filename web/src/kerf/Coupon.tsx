import { useState } from "react";

import { post } from "../api/client";
import type { Edits } from "../api/edits";
import type { Job, Setup } from "../api/model";
import type { components } from "../api/schema";
import { Save } from "../shared/Save";
import { length, readLength, useUnit } from "../shared/lengths";
import type { Kerf } from "./useKerf";

type Said = components["schemas"]["CouponSaid"];
const OUTSIDES = [20, 40, 60],
  INSIDES = [12, 20, 30];

/** A coupon's program, its measured sizes, the kerf they tell, and the history of kerfs measured. */
export function Coupon({ job, setup, kerf, edits }: { job: Job; setup: Setup; kerf: Kerf; edits: Edits }) {
  const { unit } = useUnit();
  const [typed, setTyped] = useState<Record<string, string>>({}),
    [said, setSaid] = useState<Said | null>(null),
    [kept, setKept] = useState(false),
    [wrong, setWrong] = useState("");
  const head = kerf.head;
  if (!head) return null;
  const ask = async (keep: boolean) => {
    setWrong("");
    setKept(false);
    try {
      const sizes = [];
      for (const [key, text] of Object.entries(typed)) {
        if (!text.trim()) continue;
        const [side, drawn] = key.split(" ");
        sizes.push({ side, drawn: Number(drawn), measured: (await readLength(text, unit)).mm });
      }
      const answer = await post<Said>("/kerf/measured", {
        head: head.id,
        sort: setup.material.sort || setup.material.name,
        thickness: setup.stock[0]?.thickness ?? setup.stock[0]?.nominal ?? 1,
        taken: kerf.kerf,
        sizes,
        on: new Date().toISOString().slice(0, 10),
        note: job.name,
        keep,
      });
      setSaid(answer);
      setKept(keep);
      if (keep) {
        setTyped({});
        edits.refresh();
      }
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const field = (side: string, drawn: number) => {
    const key = `${side} ${drawn}`;
    return (
      <label key={key} className="flex items-baseline gap-2">
        <span className="label w-28">
          {side} {length(drawn, unit, unit === "mm" ? 0 : 3)}
        </span>
        <input
          className="field w-24"
          aria-label={`measured ${side} ${drawn}`}
          value={typed[key] ?? ""}
          onChange={(e) => setTyped((now) => ({ ...now, [key]: e.target.value }))}
        />
      </label>
    );
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        ask(false);
      }}
    >
      <p className="label">
        Cut the coupon with the kerf as it is taken now, let it cool, measure squares and holes with calipers.
      </p>
      <div className="my-1">
        <Save
          address={`/jobs/${job.id}/kerf/coupon?setup=${encodeURIComponent(setup.id)}`}
          words="The coupon's program"
        />
      </div>
      {OUTSIDES.map((d) => field("outside", d))}
      {INSIDES.map((d) => field("inside", d))}
      <div className="mt-1 flex gap-2">
        <button className="key">What kerf is that?</button>
        {said && !kept && (
          <button type="button" className="key-strong" onClick={() => ask(true)}>
            Keep it for {head.name}
          </button>
        )}
      </div>
      {said && (
        <p className="mt-1" role="status">
          <b className="font-semibold">{length(said.kerf, unit, unit === "mm" ? 3 : 4)}</b>, single sizes
          scatter by {length(said.scatter, unit, unit === "mm" ? 3 : 4)}. An allowance of{" "}
          {length(said.allowance, unit, unit === "mm" ? 2 : 3)} keeps 19 of 20 parts no smaller than drawn.
          Taken: {length(kerf.kerf, unit, unit === "mm" ? 3 : 4)}.{kept && ` Kept for ${head.name}.`}
        </p>
      )}
      {wrong && (
        <p role="alert" className="mt-1 text-stop">
          {wrong}
        </p>
      )}
      {head.measured!.length > 0 && (
        <ul className="label mt-1" aria-label="Kerfs measured">
          {head.measured!.map((m, i) => (
            <li key={i}>
              {m.on}: {length(m.kerf, unit, 3)} in {m.sort}, {length(m.thickness, unit)}, {m.sizes} sizes
            </li>
          ))}
        </ul>
      )}
    </form>
  );
}
