import { useState } from "react";

import { call } from "../api/client";
import { clock, type FaceOrder, type Turned } from "../api/model";
import { useJobView } from "../job/view";
import { HowFar } from "../shared/HowFar";
import { money } from "../shared/money";
import { useOneByOne } from "../shared/useOneByOne";

type Outlines = FaceOrder["outlines"];
const CUT: Record<Outlines, string> = {
  here: "outlines from the other face",
  before: "outlines from the first face",
  half: "outlines half from each",
};
const WAYS = [false, true].flatMap((rough) =>
  (Object.keys(CUT) as Outlines[]).map((outlines) => ({ rough, outlines })),
);
const named = (rough: boolean, outlines: Outlines) => `${rough} ${outlines}`;

/** In which order both faces are cut, every way tried: time, turns, and what would be said of it. */
export function FaceOrders({ turned }: { turned: Turned }) {
  const { job, edits } = useJobView();
  const [open, setOpen] = useState(false);
  const ways = useOneByOne<FaceOrder>(
    ["face-orders", job.id, turned.other, job.revision],
    WAYS.map((w) => named(w.rough, w.outlines)),
    async (name, signal) => {
      const [rough, outlines] = name.split(" ");
      const about = `setup=${turned.other}&rough_both_first=${rough}&outlines=${outlines}`;
      return [await call<FaceOrder>(`/jobs/${job.id}/face-orders?${about}`, { signal })];
    },
    open,
  );
  const now = ways.found.find((w) => w.now);
  return (
    <section className="mt-2 border border-line bg-paper px-2.5 py-1.5" aria-label="Order of the faces">
      <h4 className="flex items-baseline justify-between gap-2">
        <b className="font-semibold">
          {turned.of === 3 ? "Both roughed, then both finished" : "One face, then the other"}
        </b>
        <button
          className="text-small underline decoration-dotted"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? "close" : "compare orders"}
        </button>
      </h4>
      {!open && (
        <button
          className="key mt-1"
          onClick={() =>
            edits.run({ kind: "order-faces", setup: turned.other, rough_both_first: turned.of !== 3 })
          }
        >
          {turned.of === 3 ? "Cut one face, then the other" : "Rough both faces first"}
        </button>
      )}
      {open && <HowFar of={ways} what="the orders" />}
      {open && (
        <table className="mt-1 w-full text-small">
          <thead>
            <tr className="label text-left">
              <th className="font-normal">order</th>
              <th className="text-right font-normal">turns</th>
              <th className="text-right font-normal">machine</th>
              <th className="text-right font-normal">turning</th>
              <th className="text-right font-normal">costs</th>
            </tr>
          </thead>
          {[false, true].map((rough) => (
            <tbody key={`${rough}`}>
              <tr>
                <th colSpan={5} className="label border-t border-ink pt-1 text-left font-normal">
                  {rough ? "both roughed, then both finished" : "one face, then the other"}
                </th>
              </tr>
              {(Object.keys(CUT) as Outlines[]).map((outlines) => (
                <Row
                  key={outlines}
                  of={ways.found.find((w) => w.rough_both_first === rough && w.outlines === outlines)}
                  {...{ outlines, now, running: ways.running }}
                  take={() =>
                    edits.run({
                      ...{ kind: "order-faces", setup: turned.other, rough_both_first: rough, outlines },
                    })
                  }
                />
              ))}
            </tbody>
          ))}
        </table>
      )}
    </section>
  );
}

type RowProps = {
  of?: FaceOrder;
  outlines: Outlines;
  now?: FaceOrder;
  running: boolean;
  take: () => void;
};

function Row({ of: w, outlines, now, running, take }: RowProps) {
  const seconds = (mine: number, theirs: number) =>
    w?.now || !now ? clock(mine) : `${mine < theirs ? "-" : "+"}${clock(Math.abs(mine - theirs))}`;
  const known = w && !w.refused;
  return (
    <>
      <tr className="border-t border-line align-top" data-order={w && named(w.rough_both_first, outlines)}>
        <td className="py-1 pr-1">
          <button
            className={`text-left ${w?.now ? "font-semibold" : "underline decoration-dotted"}`}
            disabled={!known || w.now}
            title={w?.says}
            onClick={take}
          >
            {CUT[outlines]}
          </button>
        </td>
        <td className="num py-1 text-right">{known ? w.turns : running && !w ? "..." : "-"}</td>
        <td className="num py-1 text-right">{known && seconds(w.seconds, now?.seconds ?? 0)}</td>
        <td className="num py-1 text-right">{known && clock(w.turning)}</td>
        <td className="num py-1 text-right">{known && w.cost !== null && money(w.cost, w.currency)}</td>
      </tr>
      {w && (w.refused || w.said.length > 0) && (
        <tr>
          <td colSpan={5} className="pb-1 pl-3">
            {w.refused ? (
              <span className="text-stop">{w.refused}</span>
            ) : (
              <ul className="text-quiet">
                {w.said.map((s) => (
                  <li key={s}>{s}</li>
                ))}
              </ul>
            )}
          </td>
        </tr>
      )}
    </>
  );
}
