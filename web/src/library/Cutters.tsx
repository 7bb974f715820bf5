import { useRef, useState } from "react";

import { call, post } from "../api/client";
import { bare, length, useUnit } from "../shared/lengths";
import { CutterCard } from "./CutterCard";
import { CutterDrawing } from "./CutterDrawing";
import { type Ctx } from "./shelf";

type Offer = { line: number; action: "new" | "merge" | "same"; says: string };

export function Cutters({
  lib,
  save,
  remove,
  refetch,
  say,
}: Ctx & { refetch: () => void; say: (s: { bad: boolean; text: string } | null) => void }) {
  const { unit } = useUnit();
  const [picked, setPicked] = useState<string>(lib.cutter[0]?.id ?? ""),
    [offers, setOffers] = useState<{ file: File; list: Offer[] } | null>(null),
    [leave, setLeave] = useState<Set<number>>(new Set());
  const upload = useRef<HTMLInputElement>(null);
  const propose = async () => {
    try {
      const got = await post<{ cutter: string; families: string[] }[]>("/library/cutters/feeds");
      await refetch();
      say({
        bad: false,
        text: got.length
          ? `Feeds proposed for ${got.length} cutter${got.length === 1 ? "" : "s"} that had none, the middle of each window; look them over.`
          : "Every cutter has feeds for the shop's materials.",
      });
    } catch (e) {
      say({ bad: true, text: (e as Error).message });
    }
  };
  const ask = async (file: File, take: boolean) => {
    const form = new FormData();
    form.append("file", file);
    form.append("take", String(take));
    form.append("leave", [...leave].join(","));
    try {
      const list = await call<Offer[]>("/library/cutters", { method: "POST", body: form });
      if (take) {
        setOffers(null);
        setLeave(new Set());
        refetch();
        say({
          bad: false,
          text: `${list.filter((o) => o.action === "new").length} new, ${list.filter((o) => o.action === "merge").length} merged, ${list.filter((o) => o.action === "same").length} there already.`,
        });
      } else setOffers({ file, list });
    } catch (e) {
      say({ bad: true, text: (e as Error).message });
    }
  };
  const c = lib.cutter.find((x) => x.id === picked) ?? lib.cutter[0];
  const fresh = () => {
    const number = Array.from({ length: 999 }, (_, k) => k + 1).find(
      (n) => !lib.cutter.some((x) => x.number === n),
    )!;
    const diameter =
        [6.35, 3.175, 10, 16, 5.5, 7.5].find(
          (d) => !lib.cutter.some((x) => Math.abs(x.diameter - d) < 0.05),
        ) ?? 6.01 + number / 50,
      id = `cutter-${Date.now().toString(36)}`;
    save("cutter", {
      id,
      number,
      name: `${bare(diameter, unit)} ${unit} up-cut`,
      kind: "up-cut",
      diameter,
      flutes: 2,
      cutting_length: 22,
      shank: 6,
      feeds: {},
    }).then((ok) => ok && setPicked(id));
  };
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_420px] gap-4 max-lg:grid-cols-[minmax(0,1fr)_340px] max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-2">
      <div className="min-h-0 overflow-auto">
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <button className="key-strong" onClick={fresh}>
            A new cutter
          </button>
          <button className="key" onClick={() => upload.current!.click()}>
            Cutters from CSV ...
          </button>
          <button
            className="key"
            title="For every cutter without feeds, those in the middle of its window, for each kind of material the shop has"
            onClick={propose}
          >
            Propose missing feeds
          </button>
          <a className="key" href="/api/library/cutters.csv" download>
            CSV of all
          </a>
          <input
            ref={upload}
            type="file"
            accept=".csv,.txt,text/csv"
            className="hidden"
            aria-label="CSV of cutters"
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (f) ask(f, false);
            }}
          />
        </div>
        {offers && (
          <section className="mb-3 border border-ink bg-paper p-2.5" aria-label="Import">
            <h2 className="font-semibold">{offers.file.name}: what it would change</h2>
            <ul>
              {offers.list.map((o) => (
                <li key={o.line} className="rule flex items-baseline gap-2 py-1">
                  <input
                    type="checkbox"
                    checked={o.action !== "same" && !leave.has(o.line)}
                    disabled={o.action === "same"}
                    aria-label={`take line ${o.line}`}
                    onChange={(e) => {
                      const next = new Set(leave);
                      if (e.target.checked) next.delete(o.line);
                      else next.add(o.line);
                      setLeave(next);
                    }}
                  />
                  <b className="w-14 font-semibold">{o.action}</b>
                  <span>{o.says}</span>
                </li>
              ))}
            </ul>
            <div className="mt-2 flex gap-2">
              <button className="key-strong" onClick={() => ask(offers.file, true)}>
                Take these
              </button>
              <button
                className="key"
                onClick={() => {
                  setOffers(null);
                  setLeave(new Set());
                }}
              >
                Leave it
              </button>
            </div>
          </section>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(132px,1fr))] gap-2" aria-label="Cutters">
          {[...lib.cutter]
            .sort((a, b) => a.number - b.number)
            .map((x) => (
              <li key={x.id}>
                <button
                  className={`flex h-full w-full flex-col items-center border px-1.5 py-2 text-center ${x.id === c?.id ? "border-2 border-accent bg-white" : "border-line bg-paper hover:border-ink"}`}
                  aria-pressed={x.id === c?.id}
                  onClick={() => setPicked(x.id)}
                >
                  <CutterDrawing
                    points={x.silhouette ?? []}
                    width={70}
                    height={104}
                    edge={x.cutting_length}
                    kind={x.kind}
                    label={`${x.name}, side view`}
                  />
                  <span className="num mt-1 text-small text-quiet">T{x.number}</span>
                  <span className="text-small font-medium leading-tight">{x.name}</span>
                  <span className="num text-fine text-quiet">
                    {length(x.diameter, unit)} x {bare(x.cutting_length, unit, 1)}
                  </span>
                  {x.life && x.metres > x.life * 0.9 ? (
                    <span className="text-fine font-medium text-look">nearly worn</span>
                  ) : null}
                </button>
              </li>
            ))}
        </ul>
      </div>
      {c && <CutterCard key={c.id} c={c} lib={lib} save={save} remove={remove} />}
    </div>
  );
}
