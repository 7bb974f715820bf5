import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";

import { call, post } from "../api/client";
import { Home } from "../app/Home";
import { squareMetres, UnitSwitch, useUnit } from "../shared/lengths";
import { money } from "../shared/money";
import { when } from "../shared/when";
import { LotCard } from "./LotCard";
import { NewLotForm } from "./NewLotForm";
import { type Asked, WhatFits } from "./WhatFits";
import {
  type Done,
  type MonthOfMaterial,
  type NewLot,
  type Rack,
  RACK,
  type ShelfLine,
  useRack,
} from "./rack";

const WIDE = 215;
/** Points of the screen that the widest sheet takes. */

/** The rack: what stands where, to one scale, and all that moved. */
export function RackBench() {
  const rack = useRack(),
    client = useQueryClient();
  const [params, setParams] = useSearchParams();
  const find = params.get("find") ?? "";
  const [fault, setFault] = useState(""),
    [asked, setAsked] = useState<Asked | null>(null);
  useEffect(() => {
    document.title = "Rack - venzo";
  }, []);
  const send = async (path: string, body: unknown, take: (answer: never) => Rack) => {
    try {
      client.setQueryData(RACK, take((await post(path, body)) as never));
      client.invalidateQueries({ queryKey: RACK });
      setFault("");
      return true;
    } catch (e) {
      setFault((e as Error).message);
      return false;
    }
  };
  const act = (lot: string, done: Done) =>
    send(`/rack/${encodeURIComponent(lot)}/moves`, { done }, (a: Rack) => a);
  const receive = (lot: NewLot) => send("/rack", lot, (a: { rack: Rack }) => a.rack);
  return (
    <main className="mx-auto flex h-full max-w-[1400px] flex-col px-6 py-3">
      <header className="flex flex-wrap items-baseline gap-x-6 gap-y-1 border-b-2 border-ink pb-2">
        <Home />
        <h1 className="text-figure font-semibold">Rack</h1>
        {rack.data && <Sums rack={rack.data} />}
        <input
          type="search"
          className="field ml-auto w-56 !font-sans"
          placeholder="label, place, material, grade"
          aria-label="Find in the rack"
          value={find}
          onChange={(e) => setParams(e.target.value ? { find: e.target.value } : {}, { replace: true })}
        />
        <UnitSwitch />
      </header>
      {(fault || rack.error) && (
        <p role="alert" className="mt-2 border border-stop bg-stop-soft px-3 py-1.5 text-stop">
          {fault || rack.error!.message}
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_19rem] gap-5 py-3 max-md:grid-cols-1 max-md:overflow-auto">
        <div
          className="min-h-0 overflow-auto pr-1 max-md:overflow-visible"
          role="region"
          aria-label="Shelves"
          tabIndex={0}
        >
          {rack.isLoading && <p role="status">reading ...</p>}
          {rack.data && <Shelves rack={rack.data} find={find} asked={asked} onDo={act} />}
        </div>
        <aside
          className="grid min-h-0 content-start gap-3 overflow-auto max-md:overflow-visible"
          aria-label="Beside the rack"
          tabIndex={0}
        >
          <WhatFits onFound={setAsked} />
          <NewLotForm onReceive={receive} />
          {rack.data && <Movements rack={rack.data} />}
          <Past />
        </aside>
      </div>
    </main>
  );
}

function Sums({ rack }: { rack: Rack }) {
  const { unit } = useUnit();
  return (
    <p className="label">
      <span className="num">{rack.sheets}</span> sheets, <span className="num">{rack.remnants}</span>{" "}
      remnants, <span className="num">{squareMetres(rack.area, unit)}</span>, worth{" "}
      <span className="num">{money(rack.value, rack.currency)}</span>
    </p>
  );
}

const says = (s: ShelfLine) =>
  [s.lot.label, s.lot.place, s.material, s.lot.name, s.lot.grade, s.lot.face, s.lot.batch, s.lot.note]
    .join(" ")
    .toLowerCase();

function Shelves({
  rack,
  find,
  asked,
  onDo,
}: {
  rack: Rack;
  find: string;
  asked: Asked | null;
  onDo: (lot: string, done: Done) => void;
}) {
  // what a label's code says is looked for by its last word
  const words = find
    .toLowerCase()
    .replace(/^venzo rack /, "")
    .split(/\s+/)
    .filter(Boolean);
  const fits = new Map(asked?.found.map((f) => [f.lot, f]));
  const shown = rack.lots
    .filter((s) => words.every((w) => says(s).includes(w)))
    .filter((s) => !asked || fits.has(s.lot.id));
  const order = asked ? asked.found.map((f) => f.lot) : [];
  if (asked) shown.sort((a, b) => order.indexOf(a.lot.id) - order.indexOf(b.lot.id));
  const widest = Math.max(400, ...rack.lots.map((s) => s.lot.width));
  const groups = asked
    ? [["Where it fits, the smallest remnant first", shown] as const]
    : [...new Set(shown.map((s) => s.material))].map(
        (m) => [m, shown.filter((s) => s.material === m)] as const,
      );
  if (!rack.lots.length)
    return (
      <p className="text-quiet">
        Nothing is in the rack. Put in what stands in the shop, on the right; what runs leave comes by itself.
      </p>
    );
  if (!shown.length) return <p className="text-quiet">Nothing in the rack is like that.</p>;
  return groups.map(([title, lots]) => (
    <section key={title} aria-label={title} className="mb-4">
      <h2 className="mb-1.5 font-semibold">{title}</h2>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(245px,1fr))] gap-3">
        {lots.map((s) => (
          <LotCard
            key={s.lot.id}
            line={s}
            scale={WIDE / widest}
            currency={rack.currency}
            fit={fits.get(s.lot.id)}
            size={asked ?? undefined}
            onDo={onDo}
          />
        ))}
      </div>
    </section>
  ));
}

function Movements({ rack }: { rack: Rack }) {
  return (
    <section aria-label="What moved" className="border border-line bg-paper p-3">
      <h2 className="font-semibold">What moved</h2>
      <ol className="mt-1 text-small">
        {rack.movements.map((m) => (
          <li key={m.number} className="rule py-0.5">
            <span className="num">{m.label}</span> {m.says}
            <span className="label block">
              {when(m.made)}
              {m.author && `, ${m.author}`}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** What the runs took, month by month. */
function Past() {
  const { unit } = useUnit();
  const past = useQuery({
    queryKey: [...RACK, "past"],
    queryFn: () => call<MonthOfMaterial[]>("/rack/past"),
  });
  if (!past.data?.length) return null;
  return (
    <section aria-label="What the runs took" className="border border-line bg-paper p-3">
      <h2 className="font-semibold">What the runs took</h2>
      <table className="mt-1 w-full text-small">
        <thead>
          <tr className="text-left text-quiet">
            <th className="font-normal">month, material</th>
            <th className="text-right font-normal">area</th>
            <th className="text-right font-normal">parts</th>
          </tr>
        </thead>
        <tbody>
          {past.data.map((m) => (
            <tr key={`${m.month} ${m.material}`}>
              <td className="rule py-1">
                <span className="num">{m.month}</span> {m.name}
                <span className="label block">
                  {m.sheets} sheet{m.sheets === 1 ? "" : "s"}, {m.sound} sound
                  {m.spoilt > 0 && `, ${m.spoilt} spoilt`}
                </span>
              </td>
              <td className="rule num text-right">{squareMetres(m.area_mm2.sheet ?? 0, unit)}</td>
              <td className="rule num text-right">
                {m.utilisation === null ? "-" : `${(m.utilisation * 100).toFixed(1)} %`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
