import { useRef, useState } from "react";

import type { Head } from "../api/model";
import { Save } from "../shared/Save";
import { Section } from "../shared/Section";
import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { length, quantity, useUnit } from "../shared/lengths";
import { many } from "../shared/many";
import { type Ctx, Line, TextToken } from "./shelf";

/** Head settings of kerf tables: nozzle, cutting chart, what a set of consumables costs and lasts. */
export function Heads({ lib, save, remove, refetch }: Ctx & { refetch: () => void }) {
  return (
    <div>
      <button
        className="key-strong mb-2"
        onClick={() =>
          save("head", {
            id: `head-${Date.now().toString(36)}`,
            name: "A new head setting",
            process: "plasma",
            nozzle: 1,
            chart: [
              {
                sort: "mild steel",
                thickness: 2,
                kerf: 1.4,
                feed: 5000,
                source: "typed; cut a coupon first",
              },
            ],
          })
        }
      >
        A new head setting
      </button>
      {lib.head.length === 0 && (
        <p className="label">Head settings belong to kerf tables: plasma, fluid jet.</p>
      )}
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        {lib.head.map((h) => (
          <HeadCard key={h.id} h={h} {...{ save, remove, refetch }} />
        ))}
      </div>
    </div>
  );
}

type CardProps = { h: Head; save: Ctx["save"]; remove: Ctx["remove"]; refetch: () => void };

function HeadCard({ h, save, remove, refetch }: CardProps) {
  const { unit } = useUnit();
  const set = (f: Partial<Head>) => save("head", { ...h, ...f });
  return (
    <article className="border border-line bg-paper p-3" aria-label={h.name}>
      <h2 className="text-head font-semibold">
        <TextToken label="name" value={h.name} onCommit={(name) => set({ name })} />
      </h2>
      <Line what="process">
        <Choice
          label="process"
          value={h.process}
          options={[
            ["plasma", "plasma"],
            ["fluid jet", "fluid jet"],
          ]}
          onPick={(process) => set({ process })}
        />
        {h.process === "plasma" && (
          <>
            , swirl to the{" "}
            <Choice
              label="swirl"
              value={h.swirl ?? "right"}
              options={[
                ["right", "right: good edge right of travel"],
                ["left", "left: good edge left of travel"],
              ]}
              onPick={(swirl) => set({ swirl })}
            />
          </>
        )}
      </Line>
      <Line what="nozzle">
        bore <LengthToken label="bore of the nozzle" mm={h.nozzle} onCommit={(nozzle) => set({ nozzle })} />,
        another number than the kerf, which is in the chart
      </Line>
      <Line what="a set">
        costs{" "}
        <NumberToken
          label="price of a set"
          value={h.price ?? 0}
          digits={2}
          unsaid={h.price == null ? "nobody has said" : undefined}
          onCommit={(price) => set({ price })}
        />{" "}
        and lasts{" "}
        <NumberToken
          label="starts of a set"
          value={h.starts ?? 0}
          unsaid={h.starts == null ? "nobody has said" : undefined}
          onCommit={(starts) => set({ starts: Math.round(starts) })}
        />{" "}
        starts
      </Line>
      <Section title="Cutting chart" figure={many(h.chart.length, "row")} open>
        <table className="num w-full text-small">
          <thead>
            <tr className="label text-left">
              {["material", "thick", "kerf", "feed", "pierce"].map((w) => (
                <th key={w} className="font-normal">
                  {w}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {h.chart.map((r, i) => (
              <tr key={i} className="rule" title={r.source}>
                <td className="font-sans">{r.sort}</td>
                <td>{length(r.thickness, unit)}</td>
                <td>{length(r.kerf, unit)}</td>
                <td>{quantity(r.feed, "feed", unit)}</td>
                <td>{r.pierce == null ? "from the edge" : `${r.pierce} s`}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Section>
      <div className="mt-2 flex flex-wrap gap-2">
        <Save address={`/heads/${encodeURIComponent(h.id)}/chart.csv`} words="Chart as CSV" />
        <ChartIn id={h.id} done={refetch} />
        <button className="key !py-0" onClick={() => remove("head", h.id)}>
          Remove
        </button>
      </div>
      {(h.measured ?? []).length > 0 && (
        <Line what="measured">
          {h
            .measured!.map(
              (m) => `${m.on}: ${length(m.kerf, unit, 3)} in ${m.sort} ${length(m.thickness, unit)}`,
            )
            .join("; ")}
        </Line>
      )}
    </article>
  );
}

/** A chart from a file in place of the one there is. */
function ChartIn({ id, done }: { id: string; done: () => void }) {
  const file = useRef<HTMLInputElement>(null),
    [wrong, setWrong] = useState("");
  const take = async (f: File) => {
    const body = new FormData();
    body.append("file", f);
    const r = await fetch(`/api/heads/${encodeURIComponent(id)}/chart`, { method: "POST", body });
    setWrong(r.ok ? "" : ((await r.json()) as { detail: string }).detail);
    if (r.ok) done();
  };
  return (
    <>
      <button className="key" onClick={() => file.current?.click()}>
        Chart from CSV
      </button>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="cutting chart as CSV"
        accept=".csv,.txt,text/csv"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) take(f);
        }}
      />
      {wrong && (
        <p role="alert" className="basis-full text-small text-stop">
          {wrong}
        </p>
      )}
    </>
  );
}
