import { useRef, useState } from "react";

import type { Edits } from "../../api/edits";
import { type Command, type Job, type Part, type Setup, snagsOf } from "../../api/model";
import { partsIn } from "../../job/partsIn";
import { Pick } from "../../shared/Pick";
import { Snags } from "../../shared/Snags";
import { focusBeside } from "../../shared/keys";
import { bare, squareMetres, useUnit } from "../../shared/lengths";
import { many } from "../../shared/many";
import { Mates } from "./Mates";
import { FEATURE_DASH } from "./PartOpen";

const UNITS = ["auto", "mm", "cm", "m", "in", "ft"];

/** The wall of parts, every card to one scale, and the place to drop drawings. */
export function PartsWall({
  job,
  setup,
  edits,
  chosen,
  onChoose,
  onSelect,
  onOpen,
  onMake,
}: {
  job: Job;
  setup: Setup;
  edits: Edits;
  chosen: string[];
  onChoose: (ids: string[]) => void;
  onSelect: (id: string) => void;
  onOpen: (id: string) => void;
  onMake: () => void;
}) {
  const { unit } = useUnit();
  const [over, setOver] = useState(false);
  const [units, setUnits] = useState("auto");
  const input = useRef<HTMLInputElement>(null);
  const parts = partsIn(job, setup);
  const take = (files: FileList | null) => {
    if (files?.length) edits.drop({ files: [...files], setup: setup.id, units });
  };
  const keys = (e: React.KeyboardEvent, p: Part) => {
    if (chosen.length > 1 && chosen.includes(p.id) && manyByKey(e, chosen, p, edits)) return;
    const line = p.lines[0],
      more = e.key === "+" ? 1 : e.key === "-" ? -1 : 0;
    if (more && line && line.quantity + more >= 0)
      edits.run({ kind: "change-quantity", part: p.id, order: line.order, more });
    if (e.key === "o") onOpen(p.id);
    if (e.key === "g")
      edits.run({ kind: "set-part", part: p.id, grain: p.grain === null ? 0 : p.grain === 0 ? 90 : "none" });
    if (e.key === "m") edits.run({ kind: "set-part", part: p.id, mirror: !p.mirror });
    if (e.key === "Delete") {
      focusBeside(e.currentTarget, "[data-part]");
      edits.run({ kind: "remove-part", part: p.id });
    }
  };
  const longest = Math.max(
    1,
    ...parts.map((p) => Math.max(p.box[2] - p.box[0], (p.box[3] - p.box[1]) * 1.6)),
  );
  return (
    <div
      className={`h-full overflow-auto p-3 ${over ? "bg-accent-soft" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        take(e.dataTransfer.files);
      }}
    >
      <div className="mb-3 flex flex-wrap items-center gap-2 border border-dashed border-ink/60 bg-paper/70 px-3 py-2">
        <button className="key-strong" onClick={() => input.current?.click()}>
          Take in drawings
        </button>
        <button className="key" onClick={onMake}>
          Make parts here
        </button>
        <span className="text-quiet">or drop DXF, SVG, plotter files, CSV cut lists here</span>
        <label className="ml-auto flex items-center gap-1.5">
          <span className="label">drawing unit</span>
          <Pick
            label="drawing unit"
            value={units}
            options={UNITS.map((u): [string, string] => [u, u === "auto" ? "as the file says" : u])}
            onPick={setUnits}
          />
        </label>
        <input
          ref={input}
          type="file"
          multiple
          accept=".dxf,.svg,.plt,.hpgl,.csv"
          className="hidden"
          aria-label="Drawings"
          onChange={(e) => {
            take(e.target.files);
            e.target.value = "";
          }}
        />
        {edits.dropping && (
          <p role="status" className="w-full">
            reading ... {edits.dropped.length} done
          </p>
        )}
      </div>
      {parts.length === 0 && !edits.dropping && (
        <div className="mx-auto mt-16 max-w-md text-center">
          <p className="text-figure font-semibold">No parts yet</p>
          <p className="mt-1 text-quiet">
            Drop the drawings of the order here. Venzo finds the outlines and holes in them, counts copies,
            and says what it left out.
          </p>
        </div>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(205px,1fr))] gap-3" aria-label="Parts">
        {parts.map((p) => {
          const snags = setup.snags.filter((s) => s.where?.part === p.id || s.where?.drawing === p.drawing),
            stops = snags.filter((s) => s.severity === "stop").length,
            looks = snags.filter((s) => s.severity === "look").length;
          return (
            <li key={p.id}>
              <button
                data-part={p.id}
                onClick={(e) => {
                  if (e.ctrlKey || e.metaKey || e.shiftKey)
                    onChoose(chosen.includes(p.id) ? chosen.filter((id) => id !== p.id) : [...chosen, p.id]);
                  else onSelect(p.id);
                }}
                onDoubleClick={() => onOpen(p.id)}
                onKeyDown={(e) => keys(e, p)}
                aria-pressed={chosen.includes(p.id)}
                className={`block w-full border bg-paper p-2 text-left ${chosen.includes(p.id) ? "border-accent outline-2 outline-accent" : "border-line hover:border-ink"} ${p.missing ? "opacity-60" : ""}`}
              >
                <span className="flex items-baseline justify-between gap-2">
                  <b className="truncate font-semibold">{p.name}</b>
                  <span className="num text-head">
                    {p.quantity}
                    <span className="text-small text-quiet"> x</span>
                  </span>
                </span>
                <PartPicture part={p} scale={160 / longest} />
                <span className="num block text-small">
                  {bare(p.box[2] - p.box[0], unit, unit === "mm" ? 1 : 3)} x{" "}
                  {bare(p.box[3] - p.box[1], unit, unit === "mm" ? 1 : 3)} {unit}
                </span>
                <span className="block text-small text-quiet">
                  {p.contours.length > 1 && `${many(p.contours.length - 1, "hole")}, `}
                  {squareMetres(p.area, unit)}
                  {p.features.length ? `, ${p.features.length} marked` : ""}
                  {p.grain !== null ? ", along the grain" : ""}
                  {p.altered ? ", altered" : ""}
                  {stops ? (
                    <b className="text-stop"> {stops} stop</b>
                  ) : looks ? (
                    <b className="text-look"> {looks} to look at</b>
                  ) : null}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** The keys of a card, for all that are chosen, in one edit. */
function manyByKey(e: React.KeyboardEvent, parts: string[], p: Part, edits: Edits): boolean {
  const more = e.key === "+" ? 1 : e.key === "-" ? -1 : 0;
  const fields = more
    ? { more }
    : e.key === "g"
      ? { grain: p.grain === null ? (0 as const) : p.grain === 0 ? (90 as const) : ("none" as const) }
      : e.key === "m"
        ? { mirror: !p.mirror }
        : e.key === "Delete"
          ? { remove: true }
          : null;
  if (fields) edits.run({ kind: "change-parts", parts, ...fields });
  return !!fields;
}

/** A part; without a scale as large as there is room. */
export function PartPicture({ part, scale, height = 92 }: { part: Part; scale?: number; height?: number }) {
  const [x0, y0, x1, y1] = part.box,
    w = x1 - x0,
    h = y1 - y0;
  // a common scale tells sizes apart; small parts are shown larger, with a mark that says so
  const fit = Math.min(180 / w, (height - 10) / h),
    k = scale === undefined ? fit : Math.min(fit, Math.max(scale, Math.min(fit, 34 / Math.max(w, h))));
  return (
    <svg
      className="my-1 block w-full"
      height={height}
      viewBox={`-95 ${-height / 2} 190 ${height}`}
      aria-hidden
    >
      <g transform={`scale(${k} ${-k}) translate(${-(x0 + x1) / 2} ${-(y0 + y1) / 2})`}>
        <path
          d={part.contours.map((c) => c.d).join("")}
          fill="#e9d8b2"
          fillRule="evenodd"
          stroke="#21262a"
          strokeWidth={1.2}
          vectorEffect="non-scaling-stroke"
        />
        {part.features.map((f) => (
          <path
            key={f.name}
            d={f.d}
            fill="none"
            stroke="#1c4e49"
            strokeWidth={1}
            strokeDasharray={f.face === "back" ? "2 4" : FEATURE_DASH[f.kind]}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </g>
      {scale !== undefined && k > scale * 1.02 && (
        <text x={93} y={height / 2 - 3} textAnchor="end" fontSize={12} fill="#625d53">
          drawn {(k / scale).toFixed(1)}x larger
        </text>
      )}
    </svg>
  );
}

export function PartsDocket({
  job,
  setup,
  edits,
  selected,
  onSelect,
  onOpen,
  onChange,
  opened,
}: {
  job: Job;
  setup: Setup;
  edits: Edits;
  selected: string | null;
  onSelect: (id: string | null) => void;
  onOpen?: (id: string) => void;
  onChange: (d: string) => void;
  opened?: boolean;
}) {
  const { unit } = useUnit();
  const part = job.parts.find((p) => p.id === selected);
  const snags = snagsOf("parts", setup);
  if (!part)
    return (
      <>
        <h2 className="text-figure font-semibold">Parts of this job</h2>
        <p className="label">
          {job.drawings.length} drawing{job.drawings.length === 1 ? "" : "s"}; choose a part to set how many
          and how it may lie, open it to see it large.
        </p>
        <p className="label mt-1">
          Shift or Ctrl chooses several. Keys on a card: <b>o</b> open, <b>+</b> and <b>-</b> how many,{" "}
          <b>g</b> grain, <b>m</b> may be turned over, <b>Delete</b> remove.
        </p>
        <Snags snags={snags} edits={edits} />
        <Mates {...{ job, setup, edits }} />
      </>
    );
  const drawing = job.drawings.find((d) => d.id === part.drawing);
  const set: SetPart = (fields) => edits.run({ kind: "set-part", part: part.id, ...fields });
  return (
    <>
      <input
        key={part.name}
        className="field w-full !font-sans text-figure font-semibold"
        defaultValue={part.name}
        aria-label="Part name"
        maxLength={200}
        onBlur={(e) => {
          const v = e.target.value.trim();
          if (v && v !== part.name) set({ name: v });
          else e.target.value = part.name;
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      {drawing?.made ? (
        <p className="label mt-0.5">
          made here: {drawing.filename}{" "}
          <button className="key ml-1 !py-0 text-ink" onClick={() => onChange(part.drawing)}>
            Change its dimensions
          </button>
        </p>
      ) : (
        <p className="label mt-0.5">
          from{" "}
          <a className="underline" href={`/api/jobs/${job.id}/drawings/${part.drawing}`}>
            {drawing?.filename}
          </a>
          , read in{" "}
          <Pick
            look="token"
            label="Unit of the drawing"
            value={drawing?.units ?? "mm"}
            options={[...new Set([drawing?.units ?? "mm", "mm", "cm", "m", "in", "ft"])].map(
              (u): [string, string] => [u, u],
            )}
            onPick={(units) => edits.run({ kind: "read-again", drawing: part.drawing, units })}
          />
          {drawing && drawing.revision > 1 ? `, version ${drawing.revision}` : ""}
        </p>
      )}
      {!opened && (
        <button
          className="mt-2 block w-full border border-line bg-paper hover:border-ink"
          onClick={() => onOpen?.(part.id)}
        >
          <PartPicture part={part} height={130} />
          <span className="label block pb-1">open this part: drawing, judgement, changes</span>
        </button>
      )}
      <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-3">
        {job.orders.map((o) => (
          <div key={o.id} className="contents">
            <dt className="label py-1">wanted, {o.name}</dt>
            <dd>
              <QuantityField
                value={part.lines.find((l) => l.order === o.id)?.quantity ?? 0}
                onCommit={(q) => edits.run({ kind: "set-quantity", part: part.id, order: o.id, quantity: q })}
              />
            </dd>
          </div>
        ))}
        <dt className="label rule py-1">net area</dt>
        <dd className="num rule py-1 text-right">{squareMetres(part.area, unit)}</dd>
        <dt className="label rule py-1">length of cuts</dt>
        <dd className="num rule py-1 text-right">
          {bare(part.perimeter, unit, 0)} {unit}
        </dd>
      </dl>
      <HowItLies part={part} set={set} />
      <OnTheSheets {...{ job, part, edits, set }} />
      <Snags
        snags={setup.snags.filter((s) => s.where?.part === part.id || s.where?.drawing === part.drawing)}
        edits={edits}
      />
      <button
        className="key mt-3"
        onClick={() => {
          onSelect(null);
          edits.run({ kind: "remove-part", part: part.id });
        }}
      >
        Remove this part
      </button>
    </>
  );
}

export function QuantityField({ value, onCommit }: { value: number; onCommit: (q: number) => void }) {
  const [wrong, setWrong] = useState("");
  return (
    <span className="block text-right">
      <input
        key={value}
        className="field w-20 text-right"
        defaultValue={value}
        inputMode="numeric"
        aria-label="Quantity"
        aria-invalid={!!wrong}
        onBlur={(e) => {
          const q = Number(e.target.value);
          if (!Number.isInteger(q) || q < 0 || q > 10000) {
            setWrong("a whole number from 0 to 10,000");
            return;
          }
          setWrong("");
          if (q !== value) onCommit(q);
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      {wrong && (
        <span role="alert" className="block text-fine text-stop">
          {wrong}
        </span>
      )}
    </span>
  );
}

type SetPart = (fields: Partial<Omit<Extract<Command, { kind: "set-part" }>, "kind" | "part">>) => void;

/** How a part may be turned, turned over and lie to the grain. */
function HowItLies({ part, set }: { part: Part; set: SetPart }) {
  const how =
    part.rotations === "free"
      ? "free"
      : part.rotations.length === 4
        ? "right"
        : part.rotations.length === 2
          ? "half"
          : "fixed";
  return (
    <fieldset className="mt-3">
      <legend className="label">How it may lie</legend>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {(
          [
            ["fixed", "as drawn", [0]],
            ["half", "or end for end", [0, 180]],
            ["right", "any right angle", [0, 90, 180, 270]],
            ["free", "any angle", "free"],
          ] as const
        ).map(([id, text, rotations]) => (
          <button
            key={id}
            className={how === id ? "key-strong" : "key"}
            aria-pressed={how === id}
            onClick={() => set({ rotations: rotations === "free" ? rotations : [...rotations] })}
          >
            {text}
          </button>
        ))}
      </div>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {(
          [
            ["none", "grain: any"],
            [0, "grain along its length"],
            [90, "grain across"],
          ] as const
        ).map(([g, text]) => {
          const on = (part.grain ?? "none") === g;
          return (
            <button
              key={String(g)}
              className={on ? "key-strong" : "key"}
              aria-pressed={on}
              onClick={() => set({ grain: g })}
            >
              {text}
            </button>
          );
        })}
        <button
          className={part.mirror ? "key-strong" : "key"}
          aria-pressed={part.mirror}
          onClick={() => set({ mirror: !part.mirror })}
        >
          may be turned over
        </button>
      </div>
    </fieldset>
  );
}

/** What comes first, what only fills gaps, what stays together. */
function OnTheSheets({ job, part, edits, set }: { job: Job; part: Part; edits: Edits; set: SetPart }) {
  return (
    <fieldset className="mt-3">
      <legend className="label">On the sheets</legend>
      {job.setups.length > 1 && (
        <label className="grid grid-cols-[1fr_9rem] items-baseline gap-2">
          <span className="label">cut from</span>
          <Pick
            label="cut from"
            value={part.setup}
            options={job.setups.map((s): [string, string] => [s.id, s.material.name])}
            onPick={(to) =>
              to !== part.setup && edits.run({ kind: "move-parts", setup: part.setup, parts: [part.id], to })
            }
          />
        </label>
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        <button
          className={part.priority ? "key-strong" : "key"}
          aria-pressed={part.priority > 0}
          onClick={() => set({ priority: part.priority ? 0 : 5 })}
        >
          must not be left out
        </button>
        <button
          className={part.fill ? "key-strong" : "key"}
          aria-pressed={part.fill}
          onClick={() => set({ fill: !part.fill })}
        >
          only to fill gaps
        </button>
      </div>
      <label className="mt-1.5 grid grid-cols-[1fr_9rem] items-baseline gap-2">
        <span className="label">kept together with parts of the group</span>
        <input
          key={part.group}
          className="field"
          defaultValue={part.group}
          maxLength={80}
          placeholder="no group"
          aria-label="Group"
          onBlur={(e) => {
            const v = e.target.value.trim();
            if (v !== part.group) set({ group: v });
          }}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
      </label>
    </fieldset>
  );
}
