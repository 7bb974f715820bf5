import { useState } from "react";

import { call } from "../api/client";
import { clock, type FaceOrder, type Turned } from "../api/model";
import { times } from "../holding/grades";
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
  const now = ways.found.find((w) => w.now),
    priced = ways.found.some((w) => w.cost !== null);
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
              <th className="text-right font-normal">least held</th>
              {priced && <th className="text-right font-normal">costs</th>}
            </tr>
          </thead>
          {[false, true].map((rough) => (
            <tbody key={`${rough}`}>
              <tr>
                <th colSpan={priced ? 6 : 5} className="label border-t border-ink pt-1 text-left font-normal">
                  {rough ? "both roughed, then both finished" : "one face, then the other"}
                </th>
              </tr>
              {(Object.keys(CUT) as Outlines[]).map((outlines) => (
                <Row
                  key={outlines}
                  of={ways.found.find((w) => w.rough_both_first === rough && w.outlines === outlines)}
                  {...{ outlines, now, priced, running: ways.running }}
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
  priced: boolean;
  running: boolean;
  take: () => void;
};

function Row({ of: w, outlines, now, priced, running, take }: RowProps) {
  const known = w && !w.refused ? w : undefined;
  return (
    <>
      <tr className="border-t border-line align-top" data-order={w && named(w.rough_both_first, outlines)}>
        <td className="py-1 pr-1">
          <button
            className={`text-left ${w?.now ? "font-semibold" : "underline decoration-dotted"}`}
            disabled={!known || known.now}
            title={w?.says}
            onClick={take}
          >
            {CUT[outlines]}
          </button>
        </td>
        {known ? (
          <Figures {...{ known, now, priced }} />
        ) : (
          <td className="num py-1 text-right">{running && !w ? "..." : "-"}</td>
        )}
      </tr>
      {w && <Said of={w} across={priced ? 6 : 5} />}
    </>
  );
}

function Figures({ known: w, now, priced }: { known: FaceOrder; now?: FaceOrder; priced: boolean }) {
  const more = w.seconds - (now?.seconds ?? 0);
  return (
    <>
      <td className="num py-1 text-right">{w.turns}</td>
      <td className="num py-1 text-right">
        {w.now || !now ? clock(w.seconds) : `${more < 0 ? "-" : "+"}${clock(Math.abs(more))}`}
      </td>
      <td className="num py-1 text-right">{clock(w.turning)}</td>
      <td className="num py-1 text-right">{w.hold !== null && `${times(w.hold)}×`}</td>
      {priced && <td className="num py-1 text-right">{w.cost !== null && money(w.cost, w.currency)}</td>}
    </>
  );
}

/** Why an order cannot be, or what would be said of it that is not said now. */
function Said({ of: w, across }: { of: FaceOrder; across: number }) {
  if (!w.refused && !w.said.length) return null;
  return (
    <tr>
      <td colSpan={across} className="pb-1 pl-3">
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
  );
}
