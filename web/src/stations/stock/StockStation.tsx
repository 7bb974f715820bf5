import { useState } from "react";

import { type Edits } from "../../api/edits";
import { type Changes, type Flaw, type Job, type Setup, snagsOf, type Stock, type XY } from "../../api/model";
import { useLibrary } from "../../api/queries";
import { TextToken } from "../../library/shelf";
import { Reckon } from "../../reckonings/anywhere";
import { Section } from "../../shared/Section";
import { Snags } from "../../shared/Snags";
import { bare, length, LengthField, readCorners, readLengths, useUnit } from "../../shared/lengths";
import { QuantityField } from "../parts/PartsStation";
import { FromRack } from "./FromRack";
import { TypedStock } from "./TypedStock";
import { WhereItLies } from "./WhereItLies";
import { Zero } from "./Zero";

/** What is clicked on the table: corners of an outline, or where X0 Y0 is. */
export type Sketch = { what: "outline" | "zero"; stock: string; points: XY[] } | null;
type Drawn = { sketch: Sketch; setSketch: (s: Sketch) => void; onShow?: (stock: string) => void };

export function StockDocket({
  job,
  setup,
  edits,
  sketch,
  setSketch,
  onShow,
}: { job: Job; setup: Setup; edits: Edits } & Drawn) {
  const { unit } = useUnit();
  const library = useLibrary().data;
  const set = (fields: Record<string, unknown>) =>
    edits.run({ kind: "set-setup", setup: setup.id, ...fields });
  const offered =
    library?.stock.filter(
      (s) => s.material === setup.material.id && !setup.stock.some((k) => k.id === s.id),
    ) ?? [];
  const dead = setup.machine.dead_areas.length;
  return (
    <>
      <h2 className="text-figure font-semibold">{setup.material.name}</h2>
      <p className="label">
        on {setup.machine.name}, table {bare(setup.machine.width, unit, 1)} x{" "}
        {bare(setup.machine.height, unit, 1)} {unit}
        {dead ? `, ${dead} dead area${dead === 1 ? "" : "s"}` : ""}, home at {setup.machine.home}
      </p>
      <Snags snags={snagsOf("stock", setup)} edits={edits} />
      {setup.stock.map((s) => (
        <StockCard
          key={s.id}
          stock={s}
          setup={setup}
          edits={edits}
          sketch={sketch}
          setSketch={setSketch}
          onShow={onShow}
        />
      ))}
      <div className="mt-2 flex flex-wrap gap-1.5">
        {offered.map((s) => {
          const { material: _m, thickness: _t, spread: _s, ...kind } = s,
            stock = { ...kind, readings: [] };
          return (
            <button
              key={s.id}
              className="key max-w-full truncate"
              onClick={() => edits.run({ kind: "set-stock", setup: setup.id, stock })}
            >
              + {s.name}
            </button>
          );
        })}
      </div>
      <FromRack job={job} setup={setup} edits={edits} />
      <TypedStock setup={setup} edits={edits} />
      <Zero
        setup={setup}
        set={set}
        clicking={sketch?.what === "zero"}
        onClicking={(on) =>
          setSketch(on && setup.stock[0] ? { what: "zero", stock: setup.stock[0].id, points: [] } : null)
        }
      />
      <WhereItLies setup={setup} edits={edits} />
      {setup.machine.zones.length > 0 && (
        <Section
          strong
          title="Vacuum zones"
          figure={`${setup.zones_on.length} of ${setup.machine.zones.length} on`}
        >
          <div className="mt-1 flex flex-wrap gap-1.5" role="group" aria-label="Vacuum zones">
            {setup.machine.zones.map((z) => {
              const on = setup.zones_on.includes(z.id);
              return (
                <button
                  key={z.id}
                  className={on ? "key-strong" : "key"}
                  aria-pressed={on}
                  onClick={() => edits.run({ kind: "change-setup", setup: setup.id, zones: { [z.id]: !on } })}
                >
                  {z.id} {on ? "on" : "off"}
                </button>
              );
            })}
          </div>
        </Section>
      )}
      {setup.screws.length > 0 && (
        <p className="label mt-2">
          {setup.screws.length} screws hold each sheet; parts keep{" "}
          {length(setup.spacing - setup.rules.web + 3, unit, 1)} from their heads.
        </p>
      )}
      <Section strong title="Another machine or material">
        <div className="mt-1 flex flex-wrap gap-1.5">
          {library?.machine
            .filter((m) => m.id !== setup.machine.id && !m.head === !setup.machine.head)
            .map((m) => (
              <button key={m.id} className="key" onClick={() => set({ machine: m })}>
                {m.name}
              </button>
            ))}
          {library?.material
            .filter((m) => m.family === setup.material.family && m.id !== setup.material.id)
            .map((m) => (
              <button key={m.id} className="key" onClick={() => set({ material: m })}>
                {m.name}
              </button>
            ))}
        </div>
        <p className="label mt-1">
          A material of another family needs other cutters: put it beside this one above, with + another
          material.
        </p>
      </Section>
    </>
  );
}

/** Today where the browser is, as 2026-11-29. */
const today = () => new Date().toLocaleDateString("sv");

function StockCard({
  stock,
  setup,
  edits,
  sketch,
  setSketch,
  onShow,
}: { stock: Stock; setup: Setup; edits: Edits } & Drawn) {
  const { unit } = useUnit();
  const put = (fields: Changes) =>
    edits.run({ kind: "change-stock", setup: setup.id, stock: stock.id, fields });
  return (
    <section
      className="mt-3 border border-line bg-paper px-2.5 py-2"
      aria-label={stock.name}
      onFocus={() => onShow?.(stock.id)}
      onPointerDown={() => onShow?.(stock.id)}
    >
      <div className="flex items-baseline justify-between gap-2">
        <b className="min-w-0 font-semibold">
          <TextToken
            label="name of the sheet"
            value={stock.name}
            onCommit={(name) => name && put({ name })}
          />
        </b>
        <span className="flex items-baseline gap-1">
          <QuantityField value={stock.quantity} onCommit={(quantity) => put({ quantity })} />
          <span className="label whitespace-nowrap">on hand</span>
        </span>
      </div>
      <div className="mt-1 flex items-baseline gap-3">
        <span className="num text-huge">{bare(stock.thickness, unit)}</span>
        <span className="label">
          {unit} thick,{" "}
          {stock.readings.length
            ? `mean of ${stock.readings.length}${stock.measured ? `, ${stock.measured}` : ""}, spread ${bare(stock.spread, unit)}`
            : `nominal ${bare(stock.nominal, unit)}, not measured`}
        </span>
        <Reckon
          name="sheet-mass"
          given={{
            thickness: `${stock.thickness}`,
            width: `${stock.height}`,
            length: `${stock.width}`,
            density: `${setup.material.density}`,
          }}
        >
          how heavy
        </Reckon>
      </div>
      <Readings
        stock={stock}
        onCommit={(readings) => put({ readings, measured: readings.length ? today() : null })}
      />
      <details className="mt-1">
        <summary className="label cursor-pointer">
          {bare(stock.width, unit, 1)} x {bare(stock.height, unit, 1)} {unit}, margin{" "}
          {bare(stock.margin, unit, 1)},{" "}
          {stock.grain === null ? "no grain" : stock.grain === 0 ? "grain along X" : "grain along Y"}
        </summary>
        <LengthField label="along the machine's X" mm={stock.width} onCommit={(width) => put({ width })} />
        <LengthField label="along Y" mm={stock.height} onCommit={(height) => put({ height })} />
        <LengthField label="nominal thickness" mm={stock.nominal} onCommit={(nominal) => put({ nominal })} />
        <LengthField label="margin kept free" mm={stock.margin} onCommit={(margin) => put({ margin })} />
        <div className="flex flex-wrap gap-1.5">
          {(
            [
              [null, "no grain"],
              [0, "along X"],
              [90, "along Y"],
            ] as const
          ).map(([g, t]) => (
            <button
              key={t}
              className={stock.grain === g ? "key-strong" : "key"}
              onClick={() => put({ grain: g })}
            >
              {t}
            </button>
          ))}
          <button
            className="key"
            onClick={() =>
              put({
                width: stock.height,
                height: stock.width,
                outline: stock.outline.map(([x, y]): XY => [stock.height - y, x]),
                flaws: stock.flaws.map((f) => ({
                  ...f,
                  x: stock.height - f.y - f.height,
                  y: f.x,
                  width: f.height,
                  height: f.width,
                })),
                grain: stock.grain === null ? null : stock.grain === 0 ? 90 : 0,
              })
            }
          >
            Turn the sheet
          </button>
          <button
            className="key"
            onClick={() => edits.run({ kind: "remove-stock", setup: setup.id, stock: stock.id })}
          >
            Take it out
          </button>
        </div>
      </details>
      <Remnant stock={stock} put={put} sketch={sketch} setSketch={setSketch} />
    </section>
  );
}

/** The outline of a remnant, drawn on the table or typed as corner readings, and what is wrong with the sheet. */
function Remnant({ stock, put, sketch, setSketch }: { stock: Stock; put: (f: Changes) => void } & Drawn) {
  const { unit } = useUnit();
  const [wrong, setWrong] = useState(""),
    [open, setOpen] = useState(false);
  const shown = stock.outline.map(([x, y]) => `${bare(x, unit)}, ${bare(y, unit)}`).join("; "),
    mine = sketch?.what === "outline" && sketch.stock === stock.id;
  const commit = async (text: string) => {
    if (text.trim() === shown.trim()) return;
    try {
      const points: XY[] = await readCorners(text, unit);
      if (points.length && points.length < 3) throw new Error("an outline needs at least three corners");
      setWrong("");
      put({ outline: points });
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const flaw = (i: number, fields: Partial<Flaw>) => put({ flaws: { [i]: fields } });
  return (
    <details className="mt-1" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="label cursor-pointer">
        {stock.outline.length ? `remnant of ${stock.outline.length} corners` : "whole sheet"}
        {stock.flaws.length ? `, ${stock.flaws.length} flaw${stock.flaws.length === 1 ? "" : "s"}` : ""}:
        outline and flaws
      </summary>
      <label className="mt-1 block">
        <span className="label">corner readings, X, Y; X, Y; ... in {unit}</span>
        <input
          key={shown}
          className="field w-full"
          defaultValue={shown}
          placeholder={
            unit === "mm" ? "0, 0; 900, 0; 900, 300; 400, 600; 0, 600" : "0, 0; 36 1/2, 0; 36 1/2, 12; 0, 24"
          }
          aria-label="Corner readings"
          aria-invalid={!!wrong}
          onBlur={(e) => commit(e.currentTarget.value)}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
      </label>
      {wrong && (
        <span role="alert" className="text-fine text-stop">
          {wrong}
        </span>
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        {mine ? (
          <>
            <button
              className="key-strong"
              disabled={sketch!.points.length < 3}
              onClick={() => {
                put({ outline: sketch!.points });
                setSketch(null);
              }}
            >
              Close the outline
            </button>
            <button
              className="key"
              disabled={!sketch!.points.length}
              onClick={() =>
                setSketch({ what: "outline", stock: stock.id, points: sketch!.points.slice(0, -1) })
              }
            >
              One corner back
            </button>
            <button className="key" onClick={() => setSketch(null)}>
              Leave it
            </button>
          </>
        ) : (
          <button className="key" onClick={() => setSketch({ what: "outline", stock: stock.id, points: [] })}>
            Draw the outline on the table
          </button>
        )}
        {stock.outline.length > 0 && !mine && (
          <button className="key" onClick={() => put({ outline: [] })}>
            Whole sheet again
          </button>
        )}
        <button
          className="key"
          onClick={() =>
            put({
              flaws: [
                ...stock.flaws,
                { x: stock.width / 2 - 20, y: stock.height / 2 - 20, width: 40, height: 40, clearance: 5 },
              ],
            })
          }
        >
          + a flaw
        </button>
      </div>
      {mine && (
        <p className="label mt-1" role="status">
          Click corner after corner on the table ({sketch!.points.length} so far).
        </p>
      )}
      {stock.flaws.map((f, i) => (
        <fieldset key={i} className="mt-1 border-t border-line pt-1">
          <legend className="label">flaw {i + 1}</legend>
          <LengthField label="left, from the sheet's corner" mm={f.x} onCommit={(x) => flaw(i, { x })} />
          <LengthField label="near side" mm={f.y} onCommit={(y) => flaw(i, { y })} />
          <LengthField label="along X" mm={f.width} onCommit={(width) => flaw(i, { width })} />
          <LengthField label="along Y" mm={f.height} onCommit={(height) => flaw(i, { height })} />
          <LengthField
            label="kept clear around it"
            mm={f.clearance}
            onCommit={(clearance) => flaw(i, { clearance })}
          />
          <button className="key !py-0" onClick={() => put({ flaws: stock.flaws.filter((_, k) => k !== i) })}>
            Take flaw {i + 1} away
          </button>
        </fieldset>
      ))}
    </details>
  );
}

/** Caliper readings typed one after the other, in any unit, separated by spaces or semicolons. */
function Readings({ stock, onCommit }: { stock: Stock; onCommit: (r: number[]) => void }) {
  const { unit } = useUnit();
  const shown = stock.readings.map((r) => bare(r, unit)).join("  ");
  const [wrong, setWrong] = useState("");
  const commit = async (el: HTMLInputElement) => {
    if (el.value.trim() === shown.trim()) return;
    try {
      const read = await readLengths(el.value, unit);
      const bad = read.find((mm) => mm <= 0 || mm > 500);
      if (bad !== undefined) {
        setWrong(`${length(bad, unit)} cannot be a thickness`);
        return;
      }
      setWrong("");
      onCommit(read);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <label className="mt-1 block">
      <span className="label">caliper readings, {unit}</span>
      <input
        key={shown}
        className="field w-full"
        defaultValue={shown}
        placeholder={unit === "mm" ? "17.6 17.7 17.5" : "0.69 0.70 11/16"}
        aria-label="Caliper readings"
        aria-invalid={!!wrong}
        onBlur={(e) => commit(e.currentTarget)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      {wrong && (
        <span role="alert" className="text-fine text-stop">
          {wrong}
        </span>
      )}
    </label>
  );
}
