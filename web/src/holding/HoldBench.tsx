import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { fixingsChange, listChange } from "../api/changes";
import { call } from "../api/client";
import { type Edits } from "../api/edits";
import {
  clock,
  type Command,
  type Fixing,
  type HoldWay,
  type Job,
  type Screw,
  type Setup,
  type SheetPlan,
  type Tabs,
  type WayLine,
  type WhatHolds,
  type Snag,
} from "../api/model";
import { Reckon } from "../reckonings/anywhere";
import { HowFar } from "../shared/HowFar";
import { Pick } from "../shared/Pick";
import { Snags } from "../shared/Snags";
import { Choice, LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { length, squareMetres, useUnit } from "../shared/lengths";
import { useOneByOne } from "../shared/useOneByOne";
import { ScrewPlaces } from "./ScrewPlaces";
import { cutAt, gradeFill, gradeOf, HoldPatterns, times } from "./grades";

type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  plan?: SheetPlan;
  onSelect: (id: string | null) => void;
};
type Changes = Omit<Extract<Command, { kind: "change-setup" }>, "kind" | "setup">;

/** What holds the pieces of the sheet, and what is decided about it. */
export function HoldDocket({ job, setup, edits, plan, onSelect }: Props) {
  const find = (s: Snag) =>
    onSelect((s.where?.piece as string) ?? setup.pieces.find((p) => p.part === s.where?.part)?.id ?? null);
  const change = (fields: Changes) => edits.run({ kind: "change-setup", setup: setup.id, ...fields });
  return (
    <>
      <h2 className="text-figure font-semibold">How it is held</h2>
      <Lowest {...{ job, setup, plan, onSelect }} />
      <Ways job={job} setup={setup} edits={edits} />
      {setup.machine.zones.length > 0 && <Vacuum setup={setup} plan={plan} change={change} />}
      <Fixings setup={setup} edits={edits} plan={plan} job={job} />
      <BetweenPieces setup={setup} change={change} />
      <Reckoned {...{ setup, edits, plan, change }} />
      <Snags snags={setup.snags.filter((s) => s.rule.startsWith("holding."))} edits={edits} onFind={find} />
    </>
  );
}

/** The least that anything is held by, and where. */
function Lowest({ job, setup, plan, onSelect }: Omit<Props, "edits">) {
  const hold = plan?.hold,
    low = hold?.lowest,
    piece = low && setup.pieces.find((p) => p.id === low.piece),
    part = piece && job.parts.find((p) => p.id === piece.part);
  return (
    <>
      {!plan ? (
        <p className="label">Nest the pieces first: what holds them depends on where they lie.</p>
      ) : !hold ? (
        <p className="label" role="status">
          Working out what holds each piece ...
        </p>
      ) : (
        <div className="mt-1 flex items-baseline gap-3">
          <span className="num text-huge leading-none" aria-label="Lowest hold">
            {times(low?.ratio)}
            <span className="text-head">×</span>
          </span>
          <p className="label">
            {low ? (
              <>
                is the least:{" "}
                {low.kind === "piece" && part ? (
                  <button className="underline decoration-dotted" onClick={() => onSelect(low.piece)}>
                    {part.name}, piece {piece!.copy_no + 1}
                  </button>
                ) : (
                  "the sheet itself"
                )}{" "}
                at <i>{plan.cuts[low.cut]?.contour}</i>. {hold.margin}× is the house rule.
              </>
            ) : (
              "no cut loads a piece here"
            )}
          </p>
        </div>
      )}
    </>
  );
}

type Deciding = { setup: Setup; plan?: SheetPlan; change: (fields: Changes) => void };

function Vacuum({ setup, plan, change }: Deciding) {
  const hold = plan?.hold;
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label="Vacuum">
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="text-head font-semibold">Vacuum</b>
        <Reckon name="vacuum-hold">reckon an area</Reckon>
        {hold?.pressure && (
          <span className="label">
            <span className="num">{hold.pressure[0].toFixed(0)}</span> kPa at the start,{" "}
            <span className="num">{hold.pressure[1].toFixed(0)}</span> at the end
          </span>
        )}
      </h3>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {setup.machine.zones.map((z) => {
          const on = setup.zones_on.includes(z.id);
          return (
            <button
              key={z.id}
              className={`${on ? "key-strong" : "key"} !px-2 !py-0`}
              aria-pressed={on}
              onClick={() => change({ zones: { [z.id]: !on } })}
            >
              {z.id} {on ? "on" : "off"}
            </button>
          );
        })}
      </div>
      <p className="mt-1 text-small">
        Pump reaches{" "}
        <NumberToken
          label="Deepest vacuum"
          value={setup.machine.pump?.pressure ?? 70}
          unit=" kPa"
          digits={0}
          house={!setup.machine.pump}
          why={
            setup.machine.pump
              ? "as entered for this machine"
              : "not entered: estimated as a small shop pump (common practice); read the gauge with the table covered"
          }
          onCommit={(v) =>
            change({
              machine: { pump: setup.machine.pump ? { pressure: v } : { pressure: v, flow: 400 } },
            })
          }
        />{" "}
        and moves{" "}
        <NumberToken
          label="Free flow"
          value={setup.machine.pump?.flow ?? 400}
          unit=" m³/h"
          digits={0}
          house={!setup.machine.pump}
          onCommit={(v) =>
            change({ machine: { pump: setup.machine.pump ? { flow: v } : { pressure: 70, flow: v } } })
          }
        />
        ; the spoilboard leaks{" "}
        <NumberToken
          label="Leak of the spoilboard"
          value={setup.machine.spoilboard.leak}
          unit=""
          digits={1}
          why="m³/h through an open m² for every kPa; skimmed MDF about 3, paint or unskimmed faces far less"
          onCommit={(v) => change({ machine: { spoilboard: { leak: v } } })}
        />{" "}
        m³/h per m² and kPa.
      </p>
    </section>
  );
}

function BetweenPieces({ setup, change }: Deciding) {
  const { unit } = useUnit();
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label="Between the pieces">
      <h3>
        <b className="text-head font-semibold">Between the pieces</b>
      </h3>
      <div className="mt-1 flex gap-1.5">
        {(["one kerf", "skeleton"] as const).map((b) => (
          <button
            key={b}
            className={`${setup.rules.between === b ? "key-strong" : "key"} !px-2 !py-0`}
            aria-pressed={setup.rules.between === b}
            onClick={() => change({ rules: { between: b } })}
          >
            {b === "one kerf" ? "one kerf" : "a skeleton"}
          </button>
        ))}
      </div>
      <p className="label mt-1">
        {length(setup.spacing, unit, 1)} apart.{" "}
        {setup.rules.between === "one kerf"
          ? "One kerf saves material; tabs between neighbours hold nothing."
          : "A web stays between the kerfs for tabs to hold on to."}{" "}
        A change asks for a new nest.
      </p>
    </section>
  );
}

/** The figures that hold is reckoned with, and readings that replace them. */
function Reckoned({ setup, edits, plan, change }: Deciding & { edits: Edits }) {
  const family = setup.material.family;
  const reckon = (fields: NonNullable<Changes["rules"]>["hold"]) => change({ rules: { hold: fields } });
  return (
    <details className="mt-3">
      <summary className="cursor-pointer font-semibold">What is reckoned with</summary>
      <p className="text-small leading-relaxed">
        On the bed {setup.material.name.toLowerCase()} has a friction of{" "}
        <NumberToken
          label="Friction"
          value={setup.rules.hold.friction[family]}
          digits={2}
          onCommit={(v) => reckon({ friction: { [family]: v } })}
        />
        ; its tabs bear{" "}
        <QuantityToken
          of="strength"
          label="Strength of tabs"
          value={setup.rules.hold.tab_strength[family]}
          onCommit={(v) => reckon({ tab_strength: { [family]: v } })}
        />
        ; a skin is{" "}
        <LengthToken
          label="Skin"
          mm={setup.rules.hold.skin[family]}
          onCommit={(v) => reckon({ skin: { [family]: v } })}
        />{" "}
        thick. A screw bears{" "}
        <NumberToken
          label="Screw sideways"
          value={setup.rules.hold.screw_shear}
          unit=" N"
          onCommit={(v) => reckon({ screw_shear: v })}
        />{" "}
        sideways and{" "}
        <NumberToken
          label="Screw upwards"
          value={setup.rules.hold.screw_pull}
          unit=" N"
          onCommit={(v) => reckon({ screw_pull: v })}
        />{" "}
        upwards, a nail{" "}
        <NumberToken
          label="Nail sideways"
          value={setup.rules.hold.nail_shear}
          unit=" N"
          onCommit={(v) => reckon({ nail_shear: v })}
        />
        , a clamp presses{" "}
        <NumberToken
          label="Clamp"
          value={setup.rules.hold.clamp_force}
          unit=" N"
          onCommit={(v) => reckon({ clamp_force: v })}
        />
        . A piece is looked at below{" "}
        <NumberToken
          label="Margin"
          value={setup.rules.hold.margin}
          unit="×"
          digits={1}
          least={1}
          onCommit={(v) => reckon({ margin: v })}
        />{" "}
        its load.
      </p>
      <PullScale setup={setup} edits={edits} pressure={plan?.hold?.pressure?.[0]} />
      <p className="label mt-1">
        Common practice on the careful side, until your own readings replace it. Cutting forces come from the
        feeds. Makers' instructions for clamps and pumps come first.
      </p>
    </details>
  );
}

const HOLD_WAYS: HoldWay[] = ["tabs", "skin, last pass", "skin, by hand", "nothing"];

/** Ways of holding the outlines side by side: what the machine and the hands then take, and how firm it is. */
function Ways({ job, setup, edits }: { job: Job; setup: Setup; edits: Edits }) {
  const [open, setOpen] = useState(false);
  const ways = useOneByOne<WayLine>(
    ["ways", job.id, setup.id, job.revision],
    HOLD_WAYS,
    (way, signal) =>
      call(`/jobs/${job.id}/ways?setup=${setup.id}&only=${encodeURIComponent(way)}`, { signal }),
    open && setup.sheets.length > 0,
  );
  const now = ways.found.find((w) => w.now);
  return (
    <section
      className="mt-3 border border-line bg-paper px-2.5 py-1.5"
      aria-label="Ways to hold the outlines"
    >
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="text-head font-semibold">Outlines</b>
        <Reckon name="tabs">reckon tabs</Reckon>
        <button
          className="text-small underline decoration-dotted"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? "close" : "compare ways"}
        </button>
      </h3>
      {!open && <TabLine setup={setup} edits={edits} />}
      {open && <HowFar of={ways} what="the ways" />}
      {open && setup.sheets.length > 0 && (
        <table className="mt-1 w-full text-small">
          <thead>
            <tr className="label text-left">
              <th className="font-normal">way</th>
              <th className="text-right font-normal">machine</th>
              <th className="text-right font-normal">by hand</th>
              <th className="text-right font-normal">least</th>
            </tr>
          </thead>
          <tbody>
            {HOLD_WAYS.map((way) => {
              const w = ways.found.find((x) => x.way === way);
              return (
                <tr key={way} className="border-t border-line align-top" data-way={w && way}>
                  <td className="py-1 pr-1">
                    <button
                      className={`text-left ${w?.now ? "font-semibold" : "underline decoration-dotted"}`}
                      disabled={!w || w.now || edits.busy}
                      title={w?.why}
                      onClick={() => edits.run({ kind: "set-hold", setup: setup.id, way })}
                    >
                      {way === "nothing" ? "no tabs, no skin" : way}
                    </button>
                    {w && w.stops > 0 && (
                      <span className="ml-1 text-stop">
                        {w.stops} stop{w.stops > 1 ? "s" : ""}
                      </span>
                    )}
                  </td>
                  <td className="num py-1 text-right">
                    {!w
                      ? ways.running
                        ? "..."
                        : "-"
                      : w.now || !now
                        ? clock(w.seconds)
                        : `${w.seconds < now.seconds ? "-" : "+"}${clock(Math.abs(w.seconds - now.seconds))}`}
                  </td>
                  <td className="num py-1 text-right">{w?.hand_seconds ? clock(w.hand_seconds) : "-"}</td>
                  <td className="num py-1 text-right">{w && `${times(w.lowest)}×`}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {open && (
        <p className="label mt-1 min-h-12">{now && `${now.why[0].toUpperCase()}${now.why.slice(1)}.`}</p>
      )}
    </section>
  );
}

/** The tabs that outlines get, as a sentence that is edited where it stands. */
function TabLine({ setup, edits }: { setup: Setup; edits: Edits }) {
  const step = setup.operations.findLast((o) => o.on === "outlines" && o.kind === "profile"),
    t = setup.tabs_policy,
    house = !step?.tabs,
    skin = setup.operations.find((o) => o.on === "outlines" && (o.floor_allowance ?? 0) > 0);
  const put = (f: Partial<Tabs>) =>
    step &&
    edits.run({
      kind: "change-steps",
      setup: setup.id,
      on: "outlines",
      change: [{ id: step.id, fields: { tabs: f } }],
    });
  if (!step) return <p className="label">No step cuts the outlines yet.</p>;
  return (
    <p className="mt-1 text-small leading-relaxed">
      {t.count ? (
        <>
          At least{" "}
          <NumberToken
            label="Tabs"
            value={t.count}
            house={house}
            onCommit={(count) => put({ count: Math.round(count) })}
          />{" "}
          tabs,{" "}
          <LengthToken label="Tab width" mm={t.width} house={house} onCommit={(width) => put({ width })} />{" "}
          wide and{" "}
          <LengthToken
            label="Tab height"
            mm={t.height}
            house={house}
            onCommit={(height) => put({ height })}
          />{" "}
          high,{" "}
          <Choice
            label="Tops"
            value={t.sloped ? "sloped" : "flat"}
            options={[
              ["flat", "flat"],
              ["sloped", "sloped"],
            ]}
            why="a sloped top cleans up easier and holds half"
            onPick={(v) => put({ sloped: v === "sloped" })}
          />{" "}
          on top, one at least every{" "}
          <LengthToken
            label="Distance"
            mm={t.every ?? Number(setup.rules.tab_every ?? 700)}
            digits={0}
            house={t.every === null}
            onCommit={(every) => put({ every })}
            onHouse={() => put({ every: null })}
          />
          .
        </>
      ) : (
        <>
          No tabs.{" "}
          <button
            className="underline decoration-dotted"
            onClick={() => edits.run({ kind: "set-hold", setup: setup.id, way: "tabs" })}
          >
            tabs by house rule
          </button>
        </>
      )}
      {skin && (
        <>
          {" "}
          A skin of{" "}
          <LengthToken
            label="Skin of the outlines"
            mm={skin.floor_allowance ?? 0}
            onCommit={(floor_allowance) =>
              edits.run({
                kind: "change-steps",
                setup: setup.id,
                on: "outlines",
                change: [{ id: skin.id, fields: { floor_allowance } }],
              })
            }
          />{" "}
          is left
          {setup.operations.some((o) => o.id === "off the skin")
            ? " and taken by the last pass"
            : " for knife or flush-trimmer"}
          .
        </>
      )}
    </p>
  );
}

const PULLED = [
  ["friction", "a piece on the vacuum slid"],
  ["tab", "a tab or skin tore"],
  ["screw", "a screw gave way"],
] as const;
const NEW: Record<string, Partial<Fixing>> = {
  clamp: { width: 40, height: 40, proud: 25 },
  cam: { width: 40, height: 40, proud: 0 },
  pin: { width: 8, height: 8, proud: 6 },
  tape: { width: 100, height: 50, proud: 0 },
  pod: { width: 120, height: 120, proud: 0, seal: 6 },
  "fixture board": { width: 400, height: 300, proud: 0 },
  cover: { width: 600, height: 300, proud: 0 },
};

/** Screws, nails, clamps and the rest: proposed for the waste of this sheet, or put down by hand and dragged on the table. */
function Fixings({ job, setup, edits, plan }: { job: Job; setup: Setup; edits: Edits; plan?: SheetPlan }) {
  const { unit } = useUnit();
  const [wrong, setWrong] = useState("");
  const stock = setup.stock.find((s) => s.id === plan?.sheet) ?? setup.stock[0],
    here = setup.screws.filter(
      (s) => !s.sheet || (s.sheet === plan?.sheet && s.sheet_copy === plan?.copy_no),
    );
  const put = (screws: Screw[]) =>
      edits.run({ kind: "change-screws", setup: setup.id, ...listChange(setup.screws, screws) }),
    fix = (fixings: Fixing[]) =>
      edits.run({ kind: "change-fixings", setup: setup.id, ...fixingsChange(setup.fixings, fixings) });
  const ask = async (kind: string) => {
    try {
      setWrong("");
      put([
        ...setup.screws,
        ...(await call<Screw[]>(
          `/jobs/${job.id}/screws?setup=${setup.id}&sheet=${plan!.sheet}&copy_no=${plan!.copy_no}&count=6&kind=${kind}`,
        )),
      ]);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const cover = async () => {
    const found = await call<Fixing[]>(`/jobs/${job.id}/covers?setup=${setup.id}`);
    fix([...setup.fixings.filter((f) => f.kind !== "cover"), ...found]);
  };
  const add = (kind: string) => {
    const n = setup.fixings.length + 1,
      id = [...Array(300).keys()]
        .map((i) => `${kind.replace(" ", "-")}-${i + 1}`)
        .find((v) => !setup.fixings.some((f) => f.id === v))!;
    fix([...setup.fixings, { kind, id, x: 60 * n, y: 40, ...NEW[kind] } as Fixing]);
  };
  const change = (id: string, f: Partial<Fixing>) =>
    edits.run({ kind: "change-fixings", setup: setup.id, change: [{ id, fields: f }] });
  const marked = here.filter((s) => s.marked).length;
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label="Screws and clamps">
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="text-head font-semibold">Screws and clamps</b>
        <Reckon name="screws">reckon screws</Reckon>
        <span className="label num">{here.length + setup.fixings.length}</span>
      </h3>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {plan && (
          <button className="key !px-2 !py-0" onClick={() => ask("screw")}>
            Propose screws
          </button>
        )}
        {plan && (
          <button className="key !px-2 !py-0" onClick={() => ask("nail")}>
            Propose nails
          </button>
        )}
        {stock && (
          <button
            className="key !px-2 !py-0"
            onClick={() =>
              put([
                ...setup.screws,
                {
                  id: `s${Date.now().toString(36)}`,
                  x: Math.round(stock.width / 2),
                  y: Math.round(Math.max(8, stock.margin / 2)),
                  head: 10,
                  proud: 3,
                  kind: "screw",
                  sheet: null,
                  sheet_copy: 0,
                  marked: false,
                },
              ])
            }
          >
            + screw
          </button>
        )}
        {setup.machine.zones.length > 0 && (
          <button className="key !px-2 !py-0" onClick={cover}>
            Cover open zones
          </button>
        )}
        <Pick
          look="key"
          className="!px-2 !py-0"
          label="Add a fixing"
          placeholder="+ other"
          value=""
          options={Object.keys(NEW).map((k): [string, string] => [k, k])}
          onPick={add}
        />
      </div>
      {wrong && (
        <p role="alert" className="text-small text-stop">
          {wrong}
        </p>
      )}
      {here.length > 0 && (
        <p className="mt-1 flex flex-wrap items-baseline gap-x-2 text-small">
          <span>
            <span className="num">{here.length}</span>{" "}
            {here.every((s) => s.kind === "nail")
              ? "nails"
              : here.some((s) => s.kind === "nail")
                ? "screws and nails"
                : "screws"}
            {marked ? `, ${marked} marked by a drill program` : ""}
          </span>
          <button
            className="text-small underline decoration-dotted"
            onClick={() => put(setup.screws.map((s) => ({ ...s, marked: marked < here.length })))}
          >
            {marked < here.length ? "mark them first" : "no marking"}
          </button>
          <button
            className="text-small underline decoration-dotted"
            onClick={() => put(setup.screws.filter((s) => !here.includes(s)))}
          >
            take them out
          </button>
        </p>
      )}
      {here.length > 0 && <ScrewPlaces {...{ setup, edits }} screws={here} />}
      {setup.fixings.map((f) => (
        <p key={f.id} className="rule flex flex-wrap items-baseline gap-x-1.5 py-0.5 text-small">
          <b className="font-semibold">{f.kind}</b>{" "}
          <LengthToken label={`${f.id} along X`} mm={f.width} onCommit={(width) => change(f.id, { width })} />{" "}
          x{" "}
          <LengthToken
            label={`${f.id} along Y`}
            mm={f.height}
            onCommit={(height) => change(f.id, { height })}
          />{" "}
          at <LengthToken label={`${f.id} X`} mm={f.x} digits={0} onCommit={(x) => change(f.id, { x })} />,{" "}
          <LengthToken label={`${f.id} Y`} mm={f.y} digits={0} onCommit={(y) => change(f.id, { y })} />
          {["clamp", "pin", "cam"].includes(f.kind) && (
            <>
              ,{" "}
              <LengthToken
                label={`${f.id} height`}
                mm={f.proud}
                onCommit={(proud) => change(f.id, { proud })}
              />{" "}
              proud
            </>
          )}
          {f.kind === "fixture board" && (
            <>
              ,{" "}
              <LengthToken
                label={`${f.id} thickness`}
                mm={f.thickness ?? 18}
                onCommit={(thickness) => change(f.id, { thickness })}
              />{" "}
              thick
            </>
          )}
          <button
            className="ml-auto text-small underline decoration-dotted"
            aria-label={`take ${f.id} away`}
            onClick={() => fix(setup.fixings.filter((o) => o.id !== f.id))}
          >
            away
          </button>
        </p>
      ))}
      {(here.length > 0 || setup.fixings.length > 0) && (
        <p className="label mt-1">
          Drag them on the table; parts keep {length(setup.kerf + 3, unit, 1)} from heads and clamps when
          nested.
        </p>
      )}
    </section>
  );
}

/** A simple test replaces a number from common practice: pull a piece sideways and read the scale. */
function PullScale({ setup, edits, pressure }: { setup: Setup; edits: Edits; pressure?: number }) {
  const [what, setWhat] = useState<"friction" | "tab" | "screw">("friction"),
    [pull, setPull] = useState(""),
    [area, setArea] = useState(""),
    [kpa, setKpa] = useState("");
  const number = (t: string) => (t.trim() && Number.isFinite(Number(t)) ? Number(t) : null);
  return (
    <form
      className="mt-1 border-t border-line pt-1 text-small"
      aria-label="Pull scale"
      onSubmit={(e) => {
        e.preventDefault();
        const n = number(pull);
        if (n)
          edits.run({
            kind: "calibrate-hold",
            setup: setup.id,
            what,
            pull: n,
            ...(what !== "screw"
              ? { area: (number(area) ?? 0) * (what === "friction" ? 1e4 : 1) || null }
              : {}),
            ...(what === "friction" ? { pressure: number(kpa) ?? pressure ?? null } : {}),
          });
      }}
    >
      <p>
        Pull scale:{" "}
        <Pick look="token" label="What was pulled" value={what} options={PULLED} onPick={setWhat} /> at{" "}
        <input
          className="field w-16"
          aria-label="Reading in N"
          inputMode="decimal"
          value={pull}
          onChange={(e) => setPull(e.target.value)}
        />{" "}
        N
        {what !== "screw" && (
          <>
            , {what === "friction" ? "area" : "section"}{" "}
            <input
              className="field w-14"
              aria-label="Area"
              inputMode="decimal"
              value={area}
              onChange={(e) => setArea(e.target.value)}
            />{" "}
            {what === "friction" ? "dm²" : "mm²"}
          </>
        )}
        {what === "friction" && (
          <>
            , gauge{" "}
            <input
              className="field w-14"
              aria-label="Gauge in kPa"
              placeholder={pressure?.toFixed(0)}
              inputMode="decimal"
              value={kpa}
              onChange={(e) => setKpa(e.target.value)}
            />{" "}
            kPa
          </>
        )}{" "}
        <button className="key !px-2 !py-0" disabled={!number(pull)}>
          Use it
        </button>
      </p>
    </form>
  );
}

/** What holds a piece at the moment on the tape, with the numbers, and how that goes through its cuts. */
export function WhatHoldsThis({
  job,
  setup,
  plan,
  piece,
  time,
  setTime,
}: {
  job: Job;
  setup: Setup;
  plan?: SheetPlan;
  piece: string;
  time: number | null;
  setTime: (t: number | null) => void;
}) {
  const cut = cutAt(plan, time);
  const asked = useQuery({
    queryKey: ["hold", job.id, job.revision, piece, cut],
    enabled: !!plan,
    placeholderData: (old: WhatHolds | undefined, q) => (q?.queryKey[3] === piece ? old : undefined),
    staleTime: Infinity,
    queryFn: () =>
      call<WhatHolds>(
        `/jobs/${job.id}/hold?setup=${setup.id}&sheet=${plan!.sheet}&copy_no=${plan!.copy_no}&piece=${encodeURIComponent(piece)}&cut=${cut}`,
      ),
  });
  const h = asked.data;
  if (!plan || !h)
    return asked.error ? (
      <p role="alert" className="text-stop">
        {asked.error.message}
      </p>
    ) : null;
  const whole = h.joined && (h.freed === null || cut < h.freed);
  const grade = whole ? "whole" : gradeOf(h.ratio, plan.hold?.margin ?? 2),
    total = Math.max(plan.seconds, 1);
  return (
    <section className="mt-2 border border-ink bg-[#fffdf8] px-2.5 py-2" aria-label="What holds this">
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="text-head font-semibold">What holds this?</b>
        <span className="label">
          {time === null ? (
            "after the last cut"
          ) : (
            <>
              at <span className="num">{clock(time)}</span>
            </>
          )}
        </span>
      </h3>
      <div className="mt-1 flex items-center gap-3">
        <svg width="30" height="30" className="shrink-0" aria-hidden>
          <defs>
            <HoldPatterns name="what" />
          </defs>
          <rect x="1" y="1" width="28" height="28" fill={gradeFill(grade, "what")} stroke="#21262a" />
        </svg>
        {whole ? (
          <p>
            It is still part of the sheet
            {h.cuts_left ? (
              <>
                ; <span className="num">{h.cuts_left}</span> cut{h.cuts_left === 1 ? "" : "s"} to come on it
              </>
            ) : (
              ""
            )}
            .
          </p>
        ) : (
          <p>
            <span className="num text-huge leading-none">{times(h.ratio)}×</span>{" "}
            <span>
              what {h.cuts_left ? "its heaviest cut to come" : "its last cut"} asks
              {h.holds.length ? "" : "; nothing holds it"}.
            </span>
          </p>
        )}
      </div>
      {!whole && <HoldsTable h={h} />}
      <Parted {...{ h, plan, setTime }} />
      <svg
        viewBox="0 0 320 30"
        className="mt-1 w-full"
        role="img"
        aria-label={`Loose-part timeline: ${h.timeline.map((t) => `${clock(t.at)} ${times(t.ratio)} times`).join(", ") || "part of the sheet throughout"}`}
      >
        <rect
          x="0"
          y="6"
          width="320"
          height="14"
          fill={gradeFill("whole", "what")}
          stroke="#5f5847"
          strokeWidth="0.7"
        />
        {h.timeline.map((t, i) => {
          const x = (t.at / total) * 320,
            end = ((h.timeline[i + 1]?.at ?? total) / total) * 320;
          return (
            <rect
              key={i}
              x={x}
              y="6"
              width={Math.max(1.5, end - x)}
              height="14"
              fill={gradeFill(gradeOf(t.ratio, plan.hold?.margin ?? 2), "what")}
              stroke="#21262a"
              strokeWidth="0.7"
            >
              <title>{`${clock(t.at)} ${t.says}: ${times(t.ratio)} times`}</title>
            </rect>
          );
        })}
        {plan.cuts.map(
          (c, k) =>
            c.piece === piece && (
              <path
                key={k}
                d={`M${(c.begins / total) * 320} 23h${Math.max(1.5, (c.seconds / total) * 320)}`}
                stroke="#21262a"
                strokeWidth="2.4"
              />
            ),
        )}
        {time !== null && <path d={`M${(time / total) * 320} 2V28`} stroke="#a92f22" strokeWidth="1.6" />}
      </svg>
    </section>
  );
}

/** What holds, how much of it, and what pulls at it. */
function HoldsTable({ h }: { h: WhatHolds }) {
  return (
    <table className="mt-1.5 w-full text-small">
      <tbody>
        {h.holds.map((x) => (
          <tr key={x.says} className="rule">
            <td>
              {x.count > 1 ? <span className="num">{x.count} </span> : ""}
              {x.count > 1 ? x.says.replace(/^(tab|screw|nail|pin|top clamp|side cam)\b/, "$1s") : x.says}
            </td>
            <td className="num text-right">{x.side.toFixed(0)} N</td>
          </tr>
        ))}
        <tr className="rule">
          <td>where its edge is cut, after turning is reckoned</td>
          <td className="num text-right">{h.side.toFixed(0)} N</td>
        </tr>
        <tr className="rule">
          <td>the cutter pushes with</td>
          <td className="num text-right">{h.load.toFixed(0)} N</td>
        </tr>
        {h.lift > 0.05 && (
          <tr className="rule">
            <td>and lifts with {h.lift.toFixed(0)} N, against</td>
            <td className="num text-right">{h.up.toFixed(0)} N</td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

/** When a piece is parted, and when it is loose. */
function Parted({ h, plan, setTime }: { h: WhatHolds; plan: SheetPlan; setTime: (t: number) => void }) {
  const { unit } = useUnit();
  return (
    <p className="label mt-1">
      {squareMetres(h.area, unit)}
      {h.pressure !== null ? (
        <>
          , <span className="num">{h.pressure.toFixed(0)}</span> kPa
        </>
      ) : (
        ""
      )}
      {h.freed !== null && plan.cuts[h.freed] ? (
        <>
          ; parted at{" "}
          <button
            className="num underline decoration-dotted"
            onClick={() => setTime(plan.cuts[h.freed!].begins + plan.cuts[h.freed!].seconds)}
          >
            {clock(plan.cuts[h.freed].begins + plan.cuts[h.freed].seconds)}
          </button>
        </>
      ) : (
        ""
      )}
      {h.loose !== null && plan.cuts[h.loose] ? (
        <>
          , loose at{" "}
          <button
            className="num underline decoration-dotted"
            onClick={() => setTime(plan.cuts[h.loose!].begins + plan.cuts[h.loose!].seconds)}
          >
            {clock(plan.cuts[h.loose].begins + plan.cuts[h.loose].seconds)}
          </button>
        </>
      ) : h.freed !== null ? (
        ", joined by tabs or skin to the end"
      ) : (
        ""
      )}
      .
    </p>
  );
}
