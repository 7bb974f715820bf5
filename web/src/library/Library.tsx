import { useQuery } from "@tanstack/react-query";
import { useRef, useState, type ReactNode } from "react";
import { Link, useParams } from "react-router";

import { changedFields } from "../api/changes";
import { call, patch, post } from "../api/client";
import type {
  Cutter,
  Holder,
  HoldRules,
  Library as Lib,
  LibraryRecipe,
  Machine,
  Material,
} from "../api/model";
import { useLibrary } from "../api/queries";
import { FeedsBench } from "../feeds/FeedsBench";
import { Pick } from "../shared/Pick";
import { Choice, inUnit, LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import {
  bare,
  length,
  metres,
  readCorners,
  readLengths,
  type Unit,
  UnitSwitch,
  useUnit,
} from "../shared/lengths";
import { when } from "../shared/when";
import { FEATURE, KINDS } from "../stations/cuts/stepWords";
import { CutterDrawing } from "./CutterDrawing";

const FAMILIES = ["wood", "plastic", "aluminium", "steel"];
const SHELVES = [
  ["cutters", "Cutters"],
  ["materials", "Materials"],
  ["machines", "Machines"],
  ["holders", "Holders"],
  ["recipes", "Recipes"],
  ["rules", "House rules"],
] as const;
type Save = (kind: string, item: object) => Promise<boolean>;
type Ctx = { lib: Lib; save: Save; remove: (kind: string, id: string) => void };

/** What the shop owns and knows: cutters, materials, machines, holders, recipes and its rules. Plans keep their own copies and are offered what is newer. */
export function Library() {
  const { shelf = "cutters" } = useParams(),
    library = useLibrary();
  const [said, setSaid] = useState<{ bad: boolean; text: string } | null>(null);
  const [past, setPast] = useState(false);
  if (library.error)
    return (
      <p role="alert" className="p-6 text-stop">
        {library.error.message}
      </p>
    );
  if (!library.data)
    return (
      <p role="status" className="p-6">
        reading ...
      </p>
    );
  const save: Save = async (kind, item) => {
    try {
      const known =
        kind === "rules"
          ? library.data!.rules[0]
          : (library.data![kind as "cutter"] as { id: string }[]).find(
              (k) => k.id === (item as { id: string }).id,
            );
      const fields = known && changedFields(known, item);
      if (!known)
        await call(`/library/${kind}`, {
          method: "PUT",
          headers: { "content-type": "application/json" },
          body: JSON.stringify(item),
        });
      else if (Object.keys(fields!).length)
        await patch(`/library/${kind}/${encodeURIComponent(known.id)}`, fields);
      await library.refetch();
      setSaid(null);
      return true;
    } catch (e) {
      setSaid({ bad: true, text: (e as Error).message });
      return false;
    }
  };
  const remove = async (kind: string, id: string) => {
    try {
      await call(`/library/${kind}/${encodeURIComponent(id)}`, { method: "DELETE" });
      await library.refetch();
      setSaid({ bad: false, text: "Taken out of the library. Plans made with it keep their own copy." });
    } catch (e) {
      setSaid({ bad: true, text: (e as Error).message });
    }
  };
  const undo = async () => {
    try {
      const r = await post<{ says: string }>("/library/undo");
      await library.refetch();
      setSaid({ bad: false, text: `${r.says}.` });
    } catch (e) {
      setSaid({ bad: true, text: (e as Error).message });
    }
  };
  const ctx: Ctx = { lib: library.data, save, remove };
  return (
    <main className="mx-auto flex h-full max-w-[1280px] flex-col px-6 py-4">
      <header className="flex items-baseline gap-6">
        <Link to="/" className="num text-huge font-medium tracking-tight">
          venzo
        </Link>
        <h1 className="text-figure font-semibold">Shop library</h1>
        <span className="ml-auto" />
        <button className="key" onClick={undo}>
          Undo
        </button>
        <button className="key" aria-expanded={past} onClick={() => setPast(!past)}>
          History
        </button>
        <UnitSwitch />
      </header>
      <nav aria-label="Shelves" className="mt-2 flex border-b-2 border-ink">
        {SHELVES.map(([id, title]) => (
          <Link
            key={id}
            to={`/library/${id}`}
            aria-current={shelf === id ? "page" : undefined}
            className={`border-r border-dashed border-line px-4 py-1.5 ${shelf === id ? "bg-paper font-semibold" : "text-quiet hover:bg-accent-soft/60"}`}
          >
            {title} <span className="num text-small">{count(library.data, id)}</span>
          </Link>
        ))}
      </nav>
      {said && (
        <p
          role={said.bad ? "alert" : "status"}
          className={`mt-2 border px-3 py-1.5 ${said.bad ? "border-stop bg-stop-soft text-stop" : "border-line bg-accent-soft"}`}
        >
          {said.text}{" "}
          <button className="underline" onClick={() => setSaid(null)}>
            close
          </button>
        </p>
      )}
      {past && <Past at={library.dataUpdatedAt} />}
      <div className="min-h-0 flex-1 overflow-auto py-3">
        {shelf === "cutters" && <Cutters {...ctx} refetch={() => library.refetch()} say={setSaid} />}
        {shelf === "materials" && <Materials {...ctx} />}
        {shelf === "machines" && <Machines {...ctx} />}
        {shelf === "holders" && <Holders {...ctx} />}
        {shelf === "recipes" && <Recipes {...ctx} />}
        {shelf === "rules" && <Rules {...ctx} />}
      </div>
    </main>
  );
}

/** What was changed in the library, newest first. */
function Past({ at }: { at: number }) {
  const list = useQuery({
    queryKey: ["library-history", at],
    queryFn: () =>
      call<{ number: number; says: string; made: string; undone: boolean; author: string }[]>(
        "/library/history",
      ),
  });
  return (
    <ol
      aria-label="History of the library"
      className="mt-2 max-h-52 overflow-auto border border-line bg-paper px-3 py-1.5 text-small"
    >
      {list.data?.map((c) => (
        <li
          key={c.number}
          className={`rule flex justify-between gap-3 py-0.5 ${c.undone ? "text-quiet line-through" : ""}`}
        >
          <span className="min-w-0 break-words">{c.says}</span>
          <span className="num shrink-0 text-quiet">
            {c.author && `${c.author}, `}
            {when(c.made)}
          </span>
        </li>
      ))}
      {list.data?.length === 0 && <li className="label">Nothing has been changed yet.</li>}
    </ol>
  );
}

const count = (lib: Lib, id: string) =>
  ({
    cutters: lib.cutter.length,
    materials: lib.material.length,
    machines: lib.machine.length,
    holders: lib.holder.length,
    recipes: lib.recipe.length,
    rules: "",
  })[id];
const Line = ({ what, children }: { what: string; children: ReactNode }) => (
  <p className="rule grid grid-cols-[8.5rem_1fr] items-baseline gap-2 py-1">
    <span className="label">{what}</span>
    <span>{children}</span>
  </p>
);

/** Text that is changed where it stands. */
function TextToken({
  label,
  value,
  onCommit,
  area,
}: {
  label: string;
  value: string;
  onCommit: (v: string) => unknown;
  area?: boolean;
}) {
  const { unit } = useUnit(),
    shown = inUnit(value, unit);
  const [text, setText] = useState<string | null>(null),
    [wrong, setWrong] = useState("");
  const done = async () => {
    try {
      if (text !== null && text.trim() !== value) await onCommit(text.trim());
      setText(null);
      setWrong("");
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  if (text === null)
    return (
      <button
        className="border-b border-dotted border-ink text-left"
        aria-label={`${label}: ${shown || "none"}`}
        onClick={() => setText(value)}
      >
        {shown || <span className="text-quiet">none</span>}
      </button>
    );
  const props = {
    "aria-label": label,
    "aria-invalid": !!wrong,
    value: text,
    autoFocus: true,
    maxLength: 400,
    className: "w-full border-b-2 border-accent bg-white px-1",
    onChange: (e: { target: { value: string } }) => setText(e.target.value),
    onBlur: done,
  };
  return (
    <>
      {area ? (
        <textarea rows={2} {...props} />
      ) : (
        <input
          {...props}
          onKeyDown={(e) => {
            if (e.key === "Enter") done();
            if (e.key === "Escape") {
              setText(null);
              setWrong("");
            }
          }}
        />
      )}
      {wrong && (
        <span role="alert" className="block text-fine text-stop">
          {wrong}
        </span>
      )}
    </>
  );
}

// -- cutters

type Offer = { line: number; action: "new" | "merge" | "same"; says: string };

function Cutters({
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
    <div className="grid h-full grid-cols-[minmax(0,1fr)_420px] gap-4">
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

function CutterCard({ c, lib, save, remove }: { c: Cutter } & Ctx) {
  const { refetch } = useLibrary();
  const { unit } = useUnit();
  const [family, setFamily] = useState(Object.keys(c.feeds)[0] ?? "wood"),
    [bench, setBench] = useState(false);
  const set = (fields: Partial<Cutter>) => save("cutter", { ...c, ...fields, silhouette: undefined });
  const material = lib.material.find((m) => m.family === family) ?? lib.material[0],
    feeds = c.feeds[family],
    shaped = ["roundover", "point roundover", "bowl"].includes(c.kind);
  const machine = lib.machine[0];
  if (bench)
    return (
      <div className="min-h-0 overflow-auto border border-line bg-paper p-3">
        <FeedsBench
          ask={{ cutter: c.id, material: material.id, machine: machine?.id }}
          title={`${c.name} in ${material.name}`}
          onBack={() => setBench(false)}
          onKeep={(rpm, feed) => {
            set({
              feeds: {
                ...c.feeds,
                [family]: {
                  rpm,
                  feed,
                  plunge: feeds?.plunge ?? feed / 2,
                  source: "shop's own, from the window",
                },
              },
            });
            setBench(false);
          }}
        />
      </div>
    );
  return (
    <article className="min-h-0 overflow-auto border border-line bg-paper p-3" aria-label={c.name}>
      <div className="flex gap-3">
        <CutterDrawing
          points={c.silhouette ?? []}
          width={110}
          height={168}
          edge={c.cutting_length}
          kind={c.kind}
        />
        <div className="flex-1">
          <h2 className="text-head font-semibold leading-tight">
            <TextToken label="name" value={c.name} onCommit={(name) => set({ name })} />
          </h2>
          <p className="mt-1">
            T
            <NumberToken
              label="tool number"
              value={c.number}
              least={1}
              onCommit={(number) => set({ number: Math.round(number) })}
            />
            ,{" "}
            <Choice
              label="kind"
              value={c.kind}
              options={KINDS.map((k) => [k, k])}
              onPick={(kind) =>
                set({
                  kind,
                  ...(["roundover", "point roundover", "bowl"].includes(kind) && !c.corner_radius
                    ? { corner_radius: c.diameter / 4 }
                    : {}),
                })
              }
            />
            ,{" "}
            <NumberToken
              label="flutes"
              value={c.flutes}
              least={1}
              onCommit={(flutes) => set({ flutes: Math.round(flutes) })}
            />{" "}
            flute{c.flutes === 1 ? "" : "s"}
          </p>
          <p className="mt-1">
            <LengthToken label="diameter" mm={c.diameter} onCommit={(diameter) => set({ diameter })} />{" "}
            across, edge{" "}
            <LengthToken
              label="cutting length"
              mm={c.cutting_length}
              onCommit={(cutting_length) => set({ cutting_length })}
            />
            , shank <LengthToken label="shank" mm={c.shank} onCommit={(shank) => set({ shank })} />
          </p>
          {(c.angle !== null || ["v-bit", "drill", "tapered ball"].includes(c.kind)) && (
            <p className="mt-1">
              <NumberToken
                label="included angle"
                value={c.angle ?? 90}
                unit="°"
                digits={1}
                onCommit={(angle) => set({ angle })}
              />{" "}
              included
            </p>
          )}
          {(shaped || ["v-bit", "tapered ball"].includes(c.kind)) && (
            <p className="mt-1">
              tip <LengthToken label="tip" mm={c.tip} onCommit={(tip) => set({ tip })} />
              {shaped && (
                <>
                  , radius{" "}
                  <LengthToken
                    label="corner radius"
                    mm={c.corner_radius}
                    onCommit={(corner_radius) => set({ corner_radius })}
                  />
                </>
              )}
            </p>
          )}
          {c.kind === "compression" && (
            <p className="mt-1">
              up-cut end{" "}
              <LengthToken
                label="up-cut end"
                mm={c.up_cut || c.diameter}
                house={!c.up_cut}
                onCommit={(up_cut) => set({ up_cut })}
              />
            </p>
          )}
        </div>
      </div>
      <Line what="stands out">
        <LengthToken
          label="stick-out"
          mm={c.stick_out ?? c.cutting_length + c.diameter / 2}
          house={c.stick_out === null}
          onCommit={(stick_out) => set({ stick_out })}
          onHouse={() => set({ stick_out: null })}
          why="shortest that does the job; it bends with the cube of this"
        />{" "}
        from{" "}
        <Choice
          label="holder"
          value={c.holder ?? ""}
          options={[["", "no holder named"], ...lib.holder.map((h): [string, string] => [h.id, h.name])]}
          onPick={(v) => set({ holder: v || null })}
        />
        {c.holder &&
          (() => {
            const h = lib.holder.find((x) => x.id === c.holder);
            return h && h.collets.length > 0 && !h.collets.some((d) => Math.abs(d - c.shank) < 0.05) ? (
              <span className="text-look"> no collet for a {length(c.shank, unit)} shank</span>
            ) : null;
          })()}
      </Line>
      <Line what="at most">
        <LengthToken
          label="deepest"
          mm={c.max_depth ?? c.cutting_length}
          house={c.max_depth === null}
          onCommit={(max_depth) => set({ max_depth })}
          onHouse={() => set({ max_depth: null })}
        />{" "}
        deep;{" "}
        <Choice
          label="centre cutting"
          value={c.centre_cutting ? "yes" : "no"}
          options={[
            ["yes", "cuts at its centre"],
            ["no", "never plunges straight"],
          ]}
          onPick={(v) => set({ centre_cutting: v === "yes" })}
        />
      </Line>
      <Line what="worn">
        <span className="num">{metres(c.metres * 1000, unit)}</span>
        {c.life ? (
          <>
            {" "}
            of{" "}
            <NumberToken
              label="metres of life"
              value={c.life}
              unit=" m"
              onCommit={(v) => set({ life: v || null })}
            />
          </>
        ) : (
          <>
            ;{" "}
            <button className="border-b border-dotted border-ink" onClick={() => set({ life: 1000 })}>
              no limit set
            </button>
          </>
        )}{" "}
        <button
          className="key ml-2 !py-0"
          onClick={() =>
            post(`/library/cutter/${c.id}/wear`, { metres: 0, sharpened: true }).then(() => refetch())
          }
        >
          Sharpened or new
        </button>
      </Line>
      <Line what="note">
        <TextToken label="note" value={c.note} area onCommit={(note) => set({ note })} />
      </Line>
      <div className="mt-2 flex gap-1" role="group" aria-label="Family">
        {FAMILIES.map((f) => (
          <button
            key={f}
            className={`${family === f ? "key-strong" : "key"} !px-2 !py-0`}
            aria-pressed={family === f}
            onClick={() => setFamily(f)}
          >
            {f}
            {c.feeds[f] ? "" : " -"}
          </button>
        ))}
      </div>
      {feeds ? (
        <>
          <p className="mt-1.5">
            <NumberToken
              label="rpm"
              value={feeds.rpm}
              unit=" rpm"
              least={1}
              onCommit={(rpm) => set({ feeds: { ...c.feeds, [family]: { ...feeds, rpm } } })}
            />
            ,{" "}
            <QuantityToken
              of="feed"
              label="feed"
              value={feeds.feed}
              least={0.001}
              onCommit={(feed) => set({ feeds: { ...c.feeds, [family]: { ...feeds, feed } } })}
            />
            , plunge{" "}
            <QuantityToken
              of="feed"
              label="plunge"
              value={feeds.plunge}
              least={0.001}
              onCommit={(plunge) => set({ feeds: { ...c.feeds, [family]: { ...feeds, plunge } } })}
            />
            ; chip{" "}
            <span className="num">
              {bare(feeds.feed / feeds.rpm / c.flutes, unit, unit === "mm" ? 3 : 4)}
            </span>
          </p>
          <p className="label">
            source:{" "}
            <TextToken
              label="source of the feeds"
              value={feeds.source}
              onCommit={(source) =>
                set({ feeds: { ...c.feeds, [family]: { ...feeds, source: source || "common practice" } } })
              }
            />
          </p>
          <div className="mt-1 flex gap-2">
            {material.family === family && (
              <button className="key" onClick={() => setBench(true)}>
                Window and what if
              </button>
            )}
            <button
              className="key"
              onClick={() => {
                const next = { ...c.feeds };
                delete next[family];
                set({ feeds: next });
              }}
            >
              Not for {family}
            </button>
          </div>
        </>
      ) : (
        <p className="mt-1.5 text-quiet">
          No feeds for {family}: operations refuse it there.{" "}
          {lib.material.some((m) => m.family === family) && (
            <button
              className="key !py-0"
              onClick={() =>
                post<{ rpm: number; feed: number; plunge: number }>("/feeds", {
                  cutter: c.id,
                  material: lib.material.find((m) => m.family === family)!.id,
                  machine: machine?.id,
                }).then((a) =>
                  set({
                    feeds: {
                      ...c.feeds,
                      [family]: {
                        rpm: Math.round(a.rpm / 100) * 100,
                        feed: Math.round(a.feed / 10) * 10,
                        plunge: Math.round(a.plunge / 10) * 10,
                        source: "middle of the window; not tried yet",
                      },
                    },
                  }),
                )
              }
            >
              Propose from the window
            </button>
          )}
        </p>
      )}
      <p className="mt-3">
        <button className="key" onClick={() => remove("cutter", c.id)}>
          Take it out of the library
        </button>
      </p>
    </article>
  );
}

// -- the other shelves

function Materials({ lib, save, remove }: Ctx) {
  const { unit } = useUnit();
  const offered = lib.known.filter((k) => !lib.material.some((m) => m.id === k.id));
  return (
    <div>
      <p className="mb-2">
        <Pick
          look="key"
          label="Add a known material"
          value=""
          placeholder="+ a material that shops meet everywhere"
          options={offered.map((m): [string, string] => [m.id, `${m.name}, ${m.density} kg/m³`])}
          onPick={(id) => {
            const k = offered.find((m) => m.id === id);
            if (k) save("material", k);
          }}
        />
      </p>
      <div className="grid grid-cols-2 gap-3">
        {lib.material.map((m: Material) => {
          const set = (f: Partial<Material>) => save("material", { ...m, ...f });
          return (
            <article key={m.id} className="border border-line bg-paper p-3" aria-label={m.name}>
              <h2 className="text-head font-semibold">
                <TextToken label="name" value={m.name} onCommit={(name) => set({ name })} />
              </h2>
              <p>
                <Choice
                  label="family"
                  value={m.family}
                  options={FAMILIES.map((f) => [f as Material["family"], f])}
                  onPick={(family) => set({ family })}
                />
                ,{" "}
                <TextToken
                  label="species, alloy or plastic"
                  value={m.sort}
                  onCommit={(sort) => set({ sort })}
                />
                ,{" "}
                <Choice
                  label="grain"
                  value={m.grained ? "yes" : "no"}
                  options={[
                    ["yes", "with grain"],
                    ["no", "no grain"],
                  ]}
                  onPick={(v) => set({ grained: v === "yes" })}
                />
              </p>
              <Line what="density">
                <NumberToken
                  label="density"
                  value={m.density}
                  unit=" kg/m³"
                  least={1}
                  onCommit={(density) => set({ density })}
                />{" "}
                {m.density_source && <span className="label">{m.density_source}</span>}
              </Line>
              <Line what="price">
                <NumberToken
                  label="price"
                  value={m.price_m2}
                  digits={2}
                  onCommit={(price_m2) => set({ price_m2 })}
                />{" "}
                a square metre
              </Line>
              <Line what="energy to cut">
                <QuantityToken
                  of="energy"
                  label="specific cutting energy"
                  value={m.in_force?.energy ?? 0}
                  house={m.specific_energy === null}
                  onCommit={(v) => set({ specific_energy: v || null, energy_source: "shop's own" })}
                  onHouse={() => set({ specific_energy: null, energy_source: "" })}
                />{" "}
                <span className="label">{m.in_force?.energy_source}</span>
              </Line>
              <Line what="edge speed">
                <QuantityToken
                  of="edge"
                  label="least edge speed"
                  value={m.in_force?.speed[0] ?? 0}
                  least={0.1}
                  house={!m.surface_speed}
                  onCommit={(v) =>
                    set({ surface_speed: [v, m.in_force!.speed[1]], speed_source: "shop's own" })
                  }
                  onHouse={() => set({ surface_speed: null, speed_source: "" })}
                />{" "}
                to{" "}
                <QuantityToken
                  of="edge"
                  label="most edge speed"
                  value={m.in_force?.speed[1] ?? 0}
                  least={0.1}
                  house={!m.surface_speed}
                  onCommit={(v) =>
                    set({ surface_speed: [m.in_force!.speed[0], v], speed_source: "shop's own" })
                  }
                  onHouse={() => set({ surface_speed: null, speed_source: "" })}
                />{" "}
                <span className="label">{m.in_force?.speed_source}</span>
              </Line>
              <Line what="chip windows">
                {m.windows.length ? (
                  m.windows.map((w, i) => (
                    <span key={i} className="block">
                      {w.kinds.join(", ") || "all kinds"}:{" "}
                      <span className="num">
                        {w.rows
                          .map((r) => `${bare(r[0], unit)}: ${bare(r[1], unit, 3)} to ${bare(r[2], unit, 3)}`)
                          .join("; ")}
                      </span>{" "}
                      <span className="label">{w.source}</span>
                    </span>
                  ))
                ) : (
                  <span className="text-quiet">the family's, common practice</span>
                )}
                {!m.windows.length && (
                  <button
                    className="key ml-2 !py-0"
                    onClick={() =>
                      set({
                        windows: [
                          {
                            kinds: [],
                            rows: [
                              [3, 0.05, 0.15],
                              [6, 0.15, 0.4],
                              [12, 0.3, 0.75],
                            ],
                            source: "shop's own",
                          },
                        ],
                      })
                    }
                  >
                    Its own
                  </button>
                )}
              </Line>
              {m.windows.map((w, i) => (
                <div key={i} className="mt-1 text-small">
                  {w.rows.map((r, k) => (
                    <p key={k}>
                      <LengthToken
                        label={`diameter ${k + 1}`}
                        mm={r[0]}
                        onCommit={(v) =>
                          set({
                            windows: m.windows.map((x, j) =>
                              j === i
                                ? { ...x, rows: x.rows.map((y, n) => (n === k ? [v, y[1], y[2]] : y)) }
                                : x,
                            ),
                          })
                        }
                      />{" "}
                      across:{" "}
                      <LengthToken
                        label={`least chip ${k + 1}`}
                        digits={3}
                        mm={r[1]}
                        onCommit={(v) =>
                          set({
                            windows: m.windows.map((x, j) =>
                              j === i
                                ? { ...x, rows: x.rows.map((y, n) => (n === k ? [y[0], v, y[2]] : y)) }
                                : x,
                            ),
                          })
                        }
                      />{" "}
                      to{" "}
                      <LengthToken
                        label={`most chip ${k + 1}`}
                        digits={3}
                        mm={r[2]}
                        onCommit={(v) =>
                          set({
                            windows: m.windows.map((x, j) =>
                              j === i
                                ? { ...x, rows: x.rows.map((y, n) => (n === k ? [y[0], y[1], v] : y)) }
                                : x,
                            ),
                          })
                        }
                      />
                    </p>
                  ))}
                  <p className="label">
                    source:{" "}
                    <TextToken
                      label="source of the window"
                      value={w.source}
                      onCommit={(source) =>
                        set({
                          windows: m.windows.map((x, j) =>
                            j === i ? { ...x, source: source || "shop's own" } : x,
                          ),
                        })
                      }
                    />{" "}
                    <button
                      className="underline"
                      onClick={() => set({ windows: m.windows.filter((_, j) => j !== i) })}
                    >
                      back to the family's
                    </button>
                  </p>
                </div>
              ))}
              <Line what="caution">
                <TextToken label="caution" area value={m.caution} onCommit={(caution) => set({ caution })} />
              </Line>
              <p className="mt-2 flex gap-2">
                <button
                  className="key !py-0"
                  onClick={() =>
                    save("material", {
                      ...m,
                      id: `material-${Date.now().toString(36)}`,
                      name: `${m.name}, another`,
                    })
                  }
                >
                  Copy
                </button>
                <button className="key !py-0" onClick={() => remove("material", m.id)}>
                  Take out
                </button>
              </p>
            </article>
          );
        })}
      </div>
    </div>
  );
}

function Machines({ lib, save, remove }: Ctx) {
  const { unit } = useUnit();
  return (
    <div className="grid grid-cols-2 gap-3">
      {lib.machine.map((m: Machine) => {
        const set = (f: Partial<Machine>) => save("machine", { ...m, ...f });
        const fast = (label: string, v: number, key: keyof Machine) => (
          <QuantityToken
            of="feed"
            digits={1}
            label={label}
            value={v}
            least={0.01}
            onCommit={(x) => set({ [key]: x })}
          />
        );
        return (
          <article key={m.id} className="border border-line bg-paper p-3" aria-label={m.name}>
            <h2 className="text-head font-semibold">
              <TextToken label="name" value={m.name} onCommit={(name) => set({ name })} />
            </h2>
            <Line what="table">
              <LengthToken label="table width" mm={m.width} onCommit={(width) => set({ width })} /> x{" "}
              <LengthToken label="table height" mm={m.height} onCommit={(height) => set({ height })} />, Z
              travel{" "}
              <LengthToken label="Z travel" mm={m.z_travel} onCommit={(z_travel) => set({ z_travel })} />
            </Line>
            <Line what="dead areas">
              <TextToken
                label={`dead areas, ${unit}: x, y; x, y for two corners of each`}
                value={m.dead_areas.map((d) => corners(d, unit)).join("; ")}
                onCommit={async (v) => set({ dead_areas: boxes(await readCorners(v, unit)) })}
              />
            </Line>
            <Line what="vacuum zones">
              <TextToken
                label={`vacuum zones, ${unit}: a line each, name: x, y; x, y`}
                area
                value={m.zones.map((z) => `${z.id}: ${corners(z.rect, unit)}`).join("\n")}
                onCommit={async (v) => set({ zones: await readZones(v, unit) })}
              />
            </Line>
            {m.zones.length > 0 && (
              <Line what="vacuum pump">
                <NumberToken
                  label="deepest vacuum"
                  value={m.pump?.pressure ?? 70}
                  unit=" kPa"
                  least={0.1}
                  house={!m.pump}
                  onCommit={(pressure) => set({ pump: { pressure, flow: m.pump?.flow ?? 400 } })}
                />
                , free flow{" "}
                <NumberToken
                  label="free flow"
                  value={m.pump?.flow ?? 400}
                  unit=" m³/h"
                  least={0.1}
                  house={!m.pump}
                  onCommit={(flow) => set({ pump: { pressure: m.pump?.pressure ?? 70, flow } })}
                />
                {m.pump ? "" : " (estimated)"}; spoilboard{" "}
                <LengthToken
                  label="spoilboard thickness"
                  mm={m.spoilboard.thickness}
                  onCommit={(thickness) => set({ spoilboard: { ...m.spoilboard, thickness } })}
                />
                , leaks{" "}
                <NumberToken
                  label="spoilboard leak"
                  value={m.spoilboard.leak}
                  digits={1}
                  unit=" m³/h per m² and kPa"
                  onCommit={(leak) => set({ spoilboard: { ...m.spoilboard, leak } })}
                />
              </Line>
            )}
            <Line what="speeds">
              X Y {fast("top speed", m.rapid, "rapid")}, Z{" "}
              {fast("top speed of Z", m.z_speed ?? m.rapid, "z_speed")}, feed to{" "}
              {fast("fastest feed", m.top_feed ?? m.rapid, "top_feed")};{" "}
              <QuantityToken
                of="acceleration"
                label="acceleration"
                value={m.acceleration}
                least={1}
                onCommit={(acceleration) => set({ acceleration })}
              />
            </Line>
            <Line what="spindle">
              <NumberToken
                label="slowest"
                value={m.rpm_min}
                least={1}
                onCommit={(rpm_min) => set({ rpm_min })}
              />{" "}
              to{" "}
              <NumberToken
                label="fastest"
                value={m.rpm_max}
                least={1}
                unit=" rpm"
                onCommit={(rpm_max) => set({ rpm_max })}
              />
            </Line>
            <Line what="power">
              {m.power.length ? (
                <PowerCurve points={m.power} />
              ) : (
                <span className="text-quiet">not entered: power is not judged</span>
              )}{" "}
              {m.power.map((p, i) => (
                <span key={i} className="mr-2 whitespace-nowrap">
                  <NumberToken
                    label={`speed ${i + 1}`}
                    value={p[0]}
                    onCommit={(v) => set({ power: m.power.map((x, k) => (k === i ? [v, x[1]] : x)) })}
                  />
                  :{" "}
                  <NumberToken
                    label={`power ${i + 1}`}
                    value={p[1]}
                    digits={2}
                    unit=" kW"
                    onCommit={(v) => set({ power: m.power.map((x, k) => (k === i ? [x[0], v] : x)) })}
                  />
                </span>
              ))}
              <button
                className="key !py-0"
                onClick={() =>
                  set({
                    power: [
                      ...m.power,
                      m.power.length
                        ? [m.power[m.power.length - 1][0] + 2000, m.power[m.power.length - 1][1]]
                        : [m.rpm_max, 2.2],
                    ],
                  })
                }
              >
                + a point
              </button>
            </Line>
            <Line what="changer">
              <NumberToken
                label="places in the changer"
                value={m.slots}
                onCommit={(slots) => set({ slots: Math.round(slots) })}
              />{" "}
              places{m.slots ? "" : ", changed by hand"}; a change takes{" "}
              <NumberToken
                label="seconds of a change"
                value={m.change_seconds}
                unit=" s"
                onCommit={(change_seconds) => set({ change_seconds })}
              />
            </Line>
            <Line what="cooling">
              {(["air", "mist", "flood"] as const).map((k) => (
                <label key={k} className="mr-3">
                  <input
                    type="checkbox"
                    checked={m.cooling.includes(k)}
                    onChange={(e) =>
                      set({
                        cooling: e.target.checked ? [...m.cooling, k] : m.cooling.filter((x) => x !== k),
                      })
                    }
                  />{" "}
                  {k}
                </label>
              ))}
            </Line>
            <Line what="heights">
              fast moves{" "}
              <LengthToken
                label="rapid height"
                mm={m.clearance}
                onCommit={(clearance) => set({ clearance })}
              />{" "}
              over the stock, plunge from{" "}
              <LengthToken label="retract height" mm={m.retract} onCommit={(retract) => set({ retract })} />
            </Line>
            <Line what="controller">
              RS-274;{" "}
              <Choice
                label="program unit"
                value={m.dialect.inch ? "in" : "mm"}
                options={[
                  ["mm", "millimetre programs"],
                  ["in", "inch programs"],
                ]}
                onPick={(v) => set({ dialect: { ...m.dialect, inch: v === "in" } })}
              />
              ,{" "}
              <Choice
                label="tool change"
                value={m.dialect.tool_change ? "yes" : "no"}
                options={[
                  ["yes", "changes cutters itself"],
                  ["no", "one cutter a file"],
                ]}
                onPick={(v) => set({ dialect: { ...m.dialect, tool_change: v === "yes" } })}
              />
            </Line>
            <p className="mt-2 flex gap-2">
              <button
                className="key !py-0"
                onClick={() =>
                  save("machine", {
                    ...m,
                    id: `machine-${Date.now().toString(36)}`,
                    name: `${m.name}, another`,
                  })
                }
              >
                Copy
              </button>
              <button className="key !py-0" onClick={() => remove("machine", m.id)}>
                Take out
              </button>
            </p>
          </article>
        );
      })}
    </div>
  );
}

/** Two corners as they are typed in the shop's unit. */
const corners = (r: [number, number, number, number], unit: Unit) =>
  `${bare(r[0], unit)}, ${bare(r[1], unit)}; ${bare(r[2], unit)}, ${bare(r[3], unit)}`;
/** Every two corners are a box. */
function boxes(points: [number, number][]): [number, number, number, number][] {
  if (points.length % 2) throw new Error("give two corners for each area: x, y; x, y");
  return points.flatMap((p, k) =>
    k % 2
      ? []
      : [
          [
            Math.min(p[0], points[k + 1][0]),
            Math.min(p[1], points[k + 1][1]),
            Math.max(p[0], points[k + 1][0]),
            Math.max(p[1], points[k + 1][1]),
          ] as [number, number, number, number],
        ],
  );
}
/** Vacuum zones, a line each: name: x, y; x, y. */
async function readZones(text: string, unit: Unit): Promise<Machine["zones"]> {
  const lines = text.split("\n").filter((line) => line.trim());
  return Promise.all(
    lines.map(async (line, k) => {
      const [name, rest] = line.includes(":") ? line.split(":") : [String(k + 1), line],
        found = boxes(await readCorners(rest, unit));
      if (found.length !== 1) throw new Error(`zone ${name.trim()}: give its two corners, x, y; x, y`);
      return { id: name.trim(), rect: found[0] };
    }),
  );
}

function PowerCurve({ points }: { points: [number, number][] }) {
  const W = 120,
    H = 40,
    x1 = Math.max(...points.map((p) => p[0])),
    y1 = Math.max(...points.map((p) => p[1]));
  return (
    <svg
      width={W}
      height={H}
      role="img"
      aria-label="power curve of the spindle"
      className="mr-2 inline-block border border-line bg-white align-middle"
    >
      <path
        d={`M2 ${H - 2}L${points.map((p) => `${2 + (p[0] / x1) * (W - 4)} ${H - 2 - (p[1] / y1) * (H - 6)}`).join("L")}`}
        fill="none"
        stroke="#1c4e49"
        strokeWidth="1.8"
      />
    </svg>
  );
}

function Holders({ lib, save, remove }: Ctx) {
  const { unit } = useUnit();
  return (
    <div>
      <button
        className="key-strong mb-2"
        onClick={() =>
          save("holder", {
            id: `holder-${Date.now().toString(36)}`,
            name: "Collet chuck",
            nose: 40,
            length: 60,
            collets: [6, 8],
          })
        }
      >
        A new holder
      </button>
      <div className="grid grid-cols-2 gap-3">
        {lib.holder.map((h: Holder) => (
          <article key={h.id} className="border border-line bg-paper p-3" aria-label={h.name}>
            <h2 className="text-head font-semibold">
              <TextToken label="name" value={h.name} onCommit={(name) => save("holder", { ...h, name })} />
            </h2>
            <Line what="nose">
              <LengthToken label="nose" mm={h.nose} onCommit={(nose) => save("holder", { ...h, nose })} />{" "}
              across, reaches{" "}
              <LengthToken
                label="length"
                mm={h.length}
                onCommit={(l) => save("holder", { ...h, length: l })}
              />{" "}
              below the spindle
            </Line>
            <Line what="collets">
              <TextToken
                label={`collets, ${unit}`}
                value={h.collets.map((d) => bare(d, unit)).join(", ")}
                onCommit={async (v) => save("holder", { ...h, collets: await readLengths(v, unit) })}
              />
            </Line>
            <Line what="cutters in it">
              {lib.cutter
                .filter((c) => c.holder === h.id)
                .map((c) => c.name)
                .join(", ") || "none"}
            </Line>
            <p className="mt-2">
              <button className="key !py-0" onClick={() => remove("holder", h.id)}>
                Take out
              </button>
            </p>
          </article>
        ))}
      </div>
    </div>
  );
}

function Recipes({ lib, save, remove }: Ctx) {
  const { unit } = useUnit();
  const names = new Map(lib.cutter.map((c) => [c.id, c.name]));
  return (
    <div>
      <p className="label mb-2">
        Named sequences for a kind of feature. They are put on a setup, a part or a contour at Cuts & hold,
        and kept from there: "keep as recipe" makes the next version.
      </p>
      <div className="grid grid-cols-2 gap-3">
        {lib.recipe.map((r: LibraryRecipe) => (
          <article key={r.id} className="border border-line bg-paper p-3" aria-label={r.name}>
            <h2 className="text-head font-semibold">
              <TextToken label="name" value={r.name} onCommit={(name) => save("recipe", { ...r, name })} />
            </h2>
            <p className="label">
              {FEATURE[r.on]}, {r.family ?? "any material"}, version <span className="num">{r.version}</span>,
              under {r.rules || "house rules"}
            </p>
            <ol className="list-decimal pl-5">
              {r.steps.map((s) => (
                <li key={s.id} className="py-0.5">
                  {s.kind} with {names.get(s.cutter) ?? s.cutter}
                  {[
                    s.direction,
                    s.side_allowance ? `leaves ${length(s.side_allowance, unit)} on the wall` : "",
                    s.floor_allowance ? `a skin of ${length(s.floor_allowance, unit)}` : "",
                    s.depth ? `to ${length(s.depth, unit)}` : "",
                    s.one_pass ? "in one pass" : "",
                    s.rest ? "the rest only" : "",
                    s.step_over ? `step-over ${Math.round(100 * s.step_over)} %` : "",
                    s.feed_share !== 1 ? `at ${Math.round(100 * s.feed_share)} % of the feed` : "",
                    s.lead && s.lead !== "none" ? `lead-in ${s.lead}` : "",
                  ]
                    .filter(Boolean)
                    .map((t) => `, ${t}`)
                    .join("")}
                </li>
              ))}
            </ol>
            <p className="mt-1">
              Why: <TextToken label="why" value={r.why} onCommit={(why) => save("recipe", { ...r, why })} />
            </p>
            <p className="mt-2">
              <button className="key !py-0" onClick={() => remove("recipe", r.id)}>
                Take out
              </button>
            </p>
          </article>
        ))}
      </div>
    </div>
  );
}

type R = Record<string, never>;
function Rules({ lib, save }: Ctx) {
  const r = (lib.rules[0] ?? {}) as unknown as Record<string, unknown> & { id: string };
  const set = (f: Record<string, unknown>) => save("rules", { ...r, ...f });
  const by = (key: string) => (r[key] ?? {}) as Record<string, number>;
  const Fam = ({
    what,
    k,
    unit,
    digits = 2,
    mm,
  }: {
    what: string;
    k: string;
    unit?: string;
    digits?: number;
    mm?: boolean;
  }) => (
    <Line what={what}>
      {FAMILIES.filter((f) => by(k)[f] !== undefined).map((f) => (
        <span key={f} className="mr-4 whitespace-nowrap">
          <span className="label">{f}</span>{" "}
          {mm ? (
            <LengthToken
              label={`${what}, ${f}`}
              mm={by(k)[f]}
              onCommit={(v) => set({ [k]: { ...by(k), [f]: v } })}
            />
          ) : (
            <NumberToken
              label={`${what}, ${f}`}
              value={by(k)[f]}
              digits={digits}
              unit={unit}
              onCommit={(v) => set({ [k]: { ...by(k), [f]: v } })}
            />
          )}
        </span>
      ))}
    </Line>
  );
  const Word = ({ what, k, options }: { what: string; k: string; options: [string, string][] }) => (
    <Line what={what}>
      {FAMILIES.slice(0, 3).map((f) => (
        <span key={f} className="mr-4 whitespace-nowrap">
          <span className="label">{f}</span>{" "}
          <Choice
            label={`${what}, ${f}`}
            value={String((r[k] as R)?.[f] ?? "")}
            options={options}
            onPick={(v) => set({ [k]: { ...(r[k] as object), [f]: v } })}
          />
        </span>
      ))}
    </Line>
  );
  const num = (key: string) => Number(r[key] ?? 0),
    hold = (r.hold ?? {}) as Partial<HoldRules>;
  return (
    <article className="max-w-3xl border border-line bg-paper p-3" aria-label="House rules">
      <h2 className="text-head font-semibold">
        <TextToken label="name" value={String(r.name ?? "Shop rules")} onCommit={(name) => set({ name })} />
      </h2>
      <p className="label">New jobs start with them; running jobs are offered the change at Cuts & hold.</p>
      <Line what="depth per pass">
        <Choice
          label="school"
          value={String(r.step_down ?? "by material")}
          options={[
            ["by material", "by material: the softer the deeper"],
            ["one diameter", "never more than one diameter"],
            ["half diameter", "half a diameter: cautious"],
          ]}
          onPick={(step_down) => set({ step_down })}
        />
        , excess of{" "}
        <NumberToken
          label="accepted excess"
          value={num("accepted_excess")}
          scale={100}
          unit=" %"
          onCommit={(accepted_excess) => set({ accepted_excess })}
        />{" "}
        accepted
      </Line>
      <Fam what="diameters a pass" k="step_factor" unit=" D" />
      <Line what="roughers">
        <Choice
          label="roughing cutters"
          value={r.roughing_double === false ? "no" : "yes"}
          options={[
            ["yes", "two diameters, whatever the school"],
            ["no", "by the school"],
          ]}
          onPick={(v) => set({ roughing_double: v === "yes" })}
        />
      </Line>
      <Line what="plunge">
        <Choice
          label="plunge rule"
          value={String(r.plunge ?? "half the feed")}
          options={[
            ["half the feed", "half the feed"],
            ["third of the feed", "a third of the feed"],
            ["fixed", "a fixed plunge"],
          ]}
          onPick={(plunge) => set({ plunge })}
        />
        {r.plunge === "fixed" && (
          <>
            {" "}
            of{" "}
            <QuantityToken
              of="feed"
              digits={2}
              label="fixed plunge"
              value={num("plunge_fixed")}
              onCommit={(plunge_fixed) => set({ plunge_fixed })}
            />
          </>
        )}
        ; ramps{" "}
        <LengthToken
          label="ramp length"
          mm={num("ramp_length")}
          onCommit={(ramp_length) => set({ ramp_length })}
        />{" "}
        long
      </Line>
      <Word
        what="entry"
        k="entry"
        options={[
          ["ramp", "ramp"],
          ["zigzag", "to and fro"],
          ["helix", "spiral"],
          ["plunge", "plunge"],
        ]}
      />
      <Word
        what="roughing"
        k="rough_direction"
        options={[
          ["climb", "climb"],
          ["conventional", "conventional"],
        ]}
      />
      <Word
        what="finishing"
        k="finish_direction"
        options={[
          ["climb", "climb"],
          ["conventional", "conventional"],
        ]}
      />
      <Fam what="left by roughing" k="side_allowance" mm />
      <Fam what="overshoot" k="overshoot" mm />
      <Fam what="pecks" k="peck" unit=" D" digits={1} />
      <Fam what="V bit, a pass" k="carve_step" mm />
      <Line what="pockets">
        step-over{" "}
        <NumberToken
          label="step-over"
          value={num("step_over")}
          scale={100}
          unit=" %"
          onCommit={(step_over) => set({ step_over })}
        />
        , walls at{" "}
        <NumberToken
          label="wall feed"
          value={num("wall_feed")}
          scale={100}
          unit=" %"
          onCommit={(wall_feed) => set({ wall_feed })}
        />{" "}
        of the feed, corners at{" "}
        <NumberToken
          label="corner feed"
          value={num("corner_feed")}
          scale={100}
          unit=" %"
          onCommit={(corner_feed) => set({ corner_feed })}
        />
      </Line>
      <Line what="depth not drawn">
        <Choice
          label="depth not drawn"
          value={r.undrawn_depth ? "half" : "ask"}
          options={[
            ["ask", "ask"],
            ["half", "half the sheet"],
          ]}
          onPick={(v) => set({ undrawn_depth: v === "half" ? 0.5 : null })}
        />
        ; engraving{" "}
        <LengthToken
          label="engraving depth"
          mm={num("engraving_depth")}
          onCommit={(engraving_depth) => set({ engraving_depth })}
        />
      </Line>
      <Line what="holding">
        {(["friction", "tab_strength"] as const).map((k) => (
          <span key={k}>
            {k === "friction" ? "friction on the bed" : "; tabs bear"}{" "}
            {FAMILIES.slice(0, 3).map((f) => (
              <span key={f} className="mr-2 whitespace-nowrap">
                <span className="label">{f}</span>{" "}
                {k === "friction" ? (
                  <NumberToken
                    label={`friction, ${f}`}
                    value={hold[k]?.[f] ?? 0}
                    digits={2}
                    onCommit={(v) => set({ hold: { ...hold, [k]: { ...hold[k], [f]: v } } })}
                  />
                ) : (
                  <QuantityToken
                    of="strength"
                    label={`tab strength, ${f}`}
                    value={hold[k]?.[f] ?? 0}
                    onCommit={(v) => set({ hold: { ...hold, [k]: { ...hold[k], [f]: v } } })}
                  />
                )}
              </span>
            ))}
          </span>
        ))}
        ; a screw bears{" "}
        <NumberToken
          label="screw"
          value={hold.screw_shear ?? 600}
          unit=" N"
          onCommit={(screw_shear) => set({ hold: { ...hold, screw_shear } })}
        />
        ; looked at below{" "}
        <NumberToken
          label="hold margin"
          value={hold.margin ?? 2}
          digits={1}
          least={1}
          unit=" x"
          onCommit={(margin) => set({ hold: { ...hold, margin } })}
        />
      </Line>
      <Line what="between parts">
        <Choice
          label="between parts"
          value={String(r.between ?? "one kerf")}
          options={[
            ["one kerf", "one kerf: saves material, for vacuum"],
            ["skeleton", "a skeleton: what tabs hold on to"],
          ]}
          onPick={(between) => set({ between })}
        />
        , web <LengthToken label="web" mm={num("web")} onCommit={(web) => set({ web })} />; round holes bored
        up to{" "}
        <NumberToken
          label="bore up to"
          value={num("bore_upto")}
          digits={1}
          unit=" D"
          onCommit={(bore_upto) => set({ bore_upto })}
        />
        ; bend up to{" "}
        <LengthToken
          label="bend of the cutter"
          mm={num("deflection_limit")}
          digits={3}
          onCommit={(deflection_limit) => set({ deflection_limit })}
        />
      </Line>
    </article>
  );
}
