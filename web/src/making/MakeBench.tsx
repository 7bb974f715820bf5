import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";

import { call, post } from "../api/client";
import { type Edits } from "../api/edits";
import type { Drawn, Job, MadeKinds, Recipe, Setup } from "../api/model";
import { useMade } from "../api/queries";
import { MeasureOver } from "../measuring/MeasureOver";
import { segments, shifted } from "../measuring/segments";
import { Pick } from "../shared/Pick";
import { useEscape } from "../shared/keys";
import { length, LengthField, useUnit } from "../shared/lengths";
import { FEATURE_DASH } from "../stations/parts/PartOpen";
import { JointFit } from "./JointFit";

export type Making = { recipe: Recipe; drawing?: string };
const COUNTS = new Set(["holes_", "openings", "count", "holes"]);
const WORDS: Record<string, string> = {
  across: "opening across",
  along: "slot length",
  edge: "first opening from the end",
  size: "corner size",
  circle: "circle of holes (0: in the middle)",
  hole: "hole diameter",
  front: "front board, measured",
  side: "side board, measured",
  rail: "rail, measured",
  board: "board, measured",
  cutter: "cutter",
  allowance: "relief allowance",
  groove: "groove for the bottom, deep",
  bottom: "bottom thickness",
  proud: "tenon stands proud",
  round_to: "round corners to",
  distance: "distance (inwards is negative)",
  rail_length: "rail length",
  rail_width: "rail width",
  board_length: "board length",
  board_width: "board width",
  cap_height: "cap height",
  count: "tails or fingers",
  angle: "angle, degrees",
  lean: "lean, degrees",
  setting: "letters",
  arc: "radius of the arc (negative: downwards)",
  leading: "line spacing, cap heights",
  border: "border line, wide (0: none)",
  margin: "margin around the text",
};
const ANGLES = new Set(["angle", "lean", "leading"]);

/** What a recipe draws, asked of the server as its dimensions change. */
export function useDrawn(recipe: Recipe | undefined) {
  const [drawn, setDrawn] = useState<Drawn | null>(null),
    [wrong, setWrong] = useState("");
  const key = JSON.stringify(recipe);
  useEffect(() => {
    if (!recipe || (recipe.kind === "inset" && !recipe.source)) {
      setDrawn(null);
      return;
    }
    let over = false;
    post<Drawn>("/made/draw", recipe)
      .then((d) => {
        if (!over) {
          setDrawn(d);
          setWrong("");
        }
      })
      .catch((e: Error) => {
        if (!over) setWrong(e.message);
      });
    return () => {
      over = true;
    };
  }, [key]); // eslint-disable-line
  return { drawn, wrong };
}

export function MakeBoard({
  drawn,
  wrong,
  onClose,
}: {
  drawn: Drawn | null;
  wrong: string;
  onClose: () => void;
}) {
  const { unit } = useUnit(),
    drawing = useRef<SVGSVGElement>(null);
  useEscape(onClose);
  const parts = drawn?.parts ?? [];
  const gap = 24,
    wide = Math.max(1, ...parts.map((p) => p.box[2] - p.box[0]));
  // parts above one another, or side by side where they are many and small
  const columns = parts.length > 3 ? Math.ceil(Math.sqrt(parts.length * 1.5)) : 1,
    cell = wide + gap;
  const placed: { x: number; y: number }[] = [];
  let x = 0,
    y = 0,
    row = 0;
  parts.forEach((p, i) => {
    if (i && i % columns === 0) {
      y += row + gap + wide * 0.06;
      x = 0;
      row = 0;
    }
    placed.push({ x, y });
    x += cell;
    row = Math.max(row, p.box[3] - p.box[1]);
  });
  const W = Math.max(...placed.map((p) => p.x + wide), 1),
    H = y + row,
    pad = Math.max(W, H) * 0.09,
    px = Math.max((W + 2 * pad) / 860, (H + 2 * pad) / 560);
  const outlines = () =>
    parts.flatMap((p, i) => {
      const dx = placed[i].x - p.box[0],
        dy = -(placed[i].y + p.box[3]);
      return [...p.contours, ...p.features].map((c) => ({
        piece: `${i}`,
        name: p.name,
        segments: segments(c.d).map((s) => shifted(s, dx, dy)),
      }));
    });
  return (
    <div className="relative h-full">
      <button className="key absolute left-4 top-3 z-10" onClick={onClose}>
        Back to the wall
      </button>
      {wrong && (
        <p
          role="alert"
          className="absolute inset-x-16 top-14 z-10 border-l-8 border-stop bg-stop-soft px-3 py-2"
        >
          {wrong}
        </p>
      )}
      <MeasureOver drawing={drawing} make={outlines} of={[drawn]} />
      {drawn && (
        <svg
          ref={drawing}
          className={`h-full w-full ${wrong ? "opacity-40" : ""}`}
          viewBox={`${-pad - 40 * px} ${-pad - 24 * px} ${W + 2 * pad + 130 * px} ${H + 2 * pad + 24 * px}`}
          role="img"
          aria-label="Picture of what is made"
        >
          {parts.map((p, i) => {
            const at = placed[i],
              h = p.box[3] - p.box[1];
            return (
              <g key={i} transform={`translate(${at.x - p.box[0]} ${at.y + h + p.box[1]})`}>
                <g transform="scale(1 -1)">
                  {p.parent.length > 0 && (
                    <path
                      d={p.parent.join("")}
                      fill="none"
                      stroke="#6b5a3a"
                      strokeWidth={1.2}
                      strokeDasharray="7 4"
                      vectorEffect="non-scaling-stroke"
                    />
                  )}
                  <path
                    d={p.contours.map((c) => c.d).join("")}
                    fill="#efe0bd"
                    fillRule="evenodd"
                    stroke="#21262a"
                    strokeWidth={1.8}
                    vectorEffect="non-scaling-stroke"
                  />
                  {p.features.map((f) => (
                    <path
                      key={f.name}
                      d={f.d}
                      fill="none"
                      stroke="#1c4e49"
                      strokeWidth={1.5}
                      strokeDasharray={FEATURE_DASH[f.kind]}
                      vectorEffect="non-scaling-stroke"
                    />
                  ))}
                </g>
                <text
                  x={columns === 1 ? p.box[2] : p.box[0]}
                  y={-p.box[3] - 6 * px}
                  fontSize={14 * px}
                  textAnchor={columns === 1 ? "end" : "start"}
                  fill="#21262a"
                >
                  {p.quantity} x {p.name}, {length(p.size[0], unit, unit === "mm" ? 1 : 3)} x{" "}
                  {length(p.size[1], unit, unit === "mm" ? 1 : 3)}
                </text>
                {i === 0 &&
                  drawn.dimensions.map((d) => (
                    <Dimension
                      key={d.name}
                      d={d}
                      px={px}
                      middle={[(p.box[0] + p.box[2]) / 2, -(p.box[1] + p.box[3]) / 2]}
                      text={length(d.mm, unit, unit === "mm" ? 2 : 3)}
                    />
                  ))}
              </g>
            );
          })}
        </svg>
      )}
    </div>
  );
}

function Dimension({
  d,
  px,
  text,
  middle,
}: {
  d: Drawn["dimensions"][number];
  px: number;
  text: string;
  middle: [number, number];
}) {
  const [ax, ay] = [d.from[0], -d.from[1]],
    [bx, by] = [d.to[0], -d.to[1]],
    n = Math.hypot(bx - ax, by - ay) || 1,
    nx = -(by - ay) / n,
    ny = (bx - ax) / n;
  // the line stands on the side that looks away from the part
  const out =
      nx * ((ax + bx) / 2 - middle[0]) + ny * ((ay + by) / 2 - middle[1]) < -1e-6 ? -16 * px : 16 * px,
    ox = nx * out,
    oy = ny * out;
  return (
    <g stroke="#8a5a00" fill="#8a5a00">
      <path
        d={`M${ax} ${ay}L${ax + ox * 1.3} ${ay + oy * 1.3}M${bx} ${by}L${bx + ox * 1.3} ${by + oy * 1.3}M${ax + ox} ${ay + oy}L${bx + ox} ${by + oy}`}
        fill="none"
        strokeWidth={1}
        vectorEffect="non-scaling-stroke"
      />
      <circle cx={ax + ox} cy={ay + oy} r={2.4 * px} stroke="none" />
      <circle cx={bx + ox} cy={by + oy} r={2.4 * px} stroke="none" />
      <text
        x={(ax + bx) / 2 + ox * 1.9}
        y={(ay + by) / 2 + oy * 1.9 + 4 * px}
        fontSize={13 * px}
        stroke="#ece4d4"
        strokeWidth={4 * px}
        paintOrder="stroke"
        textAnchor={Math.abs(ox) > Math.abs(oy) ? (ox > 0 ? "start" : "end") : "middle"}
      >
        {d.name} {text}
      </text>
    </g>
  );
}

export function MakeDocket({
  job,
  setup,
  edits,
  making,
  setMaking,
  drawn,
  wrong,
  onDone,
}: {
  job: Job;
  setup: Setup;
  edits: Edits;
  making: Making;
  setMaking: Dispatch<SetStateAction<Making | null>>;
  drawn: Drawn | null;
  wrong: string;
  onDone: () => void;
}) {
  const { data } = useMade(),
    client = useQueryClient();
  if (!data) return <p role="status">...</p>;
  const addFont = (f: File) => {
    const form = new FormData();
    form.append("file", f);
    call<{ name: string }>("/fonts", { method: "POST", body: form })
      .then(async (r) => {
        await client.invalidateQueries({ queryKey: ["made"] });
        set({ font: r.name });
      })
      .catch((e: Error) => edits.setNotice({ kind: "bad", text: e.message }));
  };
  const kind = data.recipes.find((r) => r.kind === making.recipe.kind);
  // on what is there then: fields are read one after the other, and each answer comes a little later
  const set = (fields: Recipe | Record<string, unknown>) =>
    setMaking((now) => ({ ...(now ?? making), recipe: { ...(now ?? making).recipe, ...fields } as Recipe }));
  const measured = setup.stock.find((s) => s.quantity)?.thickness;
  const start = (k: MadeKinds["recipes"][number]): Recipe => {
    const fresh = { ...k.defaults };
    for (const t of ["front", "side", "rail", "board"])
      if (t in fresh && measured) fresh[t] = Math.round(measured * 1000) / 1000;
    const cutter = setup.cutters.find(
      (c) => c.id === setup.operations.find((o) => o.on === "outlines")?.cutter,
    );
    if ("cutter" in fresh && cutter) fresh.cutter = cutter.diameter;
    if (k.kind === "inset") fresh.source = "";
    return fresh;
  };
  return (
    <>
      <h2 className="text-figure font-semibold">
        {making.drawing ? "Change what was made" : "Make parts here"}
      </h2>
      {making.drawing && <JointFit job={job} drawing={making.drawing} />}
      {!making.drawing && (
        <div className="mt-1 flex flex-wrap gap-1.5">
          {data.recipes
            .filter((r) => r.kind !== "inset" || job.parts.length > 0)
            .map((r) => (
              <button
                key={r.kind}
                className={r.kind === making.recipe.kind ? "key-strong" : "key"}
                aria-pressed={r.kind === making.recipe.kind}
                onClick={() => setMaking({ recipe: start(r) })}
              >
                {r.title}
              </button>
            ))}
        </div>
      )}
      <div className="mt-3">
        {kind &&
          Object.entries(kind.schema)
            .filter(([name]) => name !== "kind")
            .map(([name, schema]) => (
              <MadeField
                key={name}
                {...{ name, schema, set, addFont }}
                recipe={making.recipe}
                parts={job.parts}
                fonts={data.fonts}
              />
            ))}
      </div>
      {drawn?.notes.map((n) => (
        <p key={n} className="mt-2 border-l-4 border-look bg-look-soft px-2 py-1">
          {n}
        </p>
      ))}
      {drawn?.offers.map((o) => (
        <button key={o.label} className="key mt-1 mr-1.5" onClick={() => set(o.fields)}>
          {o.label}
        </button>
      ))}
      <div className="mt-3 flex gap-2">
        <button
          className="key-strong"
          disabled={!drawn || !!wrong || edits.busy}
          onClick={() =>
            edits
              .make({ setup: setup.id, recipe: making.recipe, drawing: making.drawing })
              .then(onDone)
              .catch(() => {})
          }
        >
          {making.drawing
            ? "Change them"
            : `Take in ${drawn ? drawn.parts.reduce((n, p) => n + p.quantity, 0) : ""} piece${drawn && drawn.parts.reduce((n, p) => n + p.quantity, 0) === 1 ? "" : "s"}`}
        </button>
        <button className="key" onClick={onDone}>
          Leave
        </button>
      </div>
    </>
  );
}

type FieldProps = {
  name: string;
  schema: MadeKinds["recipes"][number]["schema"][string];
  recipe: Recipe;
  parts: Job["parts"];
  fonts: string[];
  set: (fields: Record<string, unknown>) => void;
  addFont: (f: File) => void;
};

/** One dimension or choice of a recipe, in a field of its kind. */
function MadeField({ name, schema, recipe, parts, fonts, set, addFont }: FieldProps) {
  const value = recipe[name],
    label = WORDS[name] ?? name.replaceAll("_", " ");
  const options =
    schema.enum ??
    (schema.anyOf as { enum?: string[]; const?: string }[] | undefined)?.flatMap(
      (o) => o.enum ?? (o.const ? [o.const] : []),
    );
  if (name === "source")
    return (
      <label className="flex items-baseline justify-between gap-2 py-1">
        <span className="label">outline of</span>
        <Pick
          label="outline of"
          placeholder="choose a part ..."
          value={String(value ?? "")}
          options={parts.map((p): [string, string] => [p.shape, p.name])}
          onPick={(source) => set({ source })}
        />
      </label>
    );
  if (name === "font")
    return (
      <label className="flex items-baseline justify-between gap-2 py-1">
        <span className="label">font</span>
        <Pick
          label="font"
          value={String(value)}
          options={fonts.map((f): [string, string] => [f, f])}
          onPick={(font) => set({ font })}
        />
        <span className="key relative overflow-hidden !py-0">
          own font
          <input
            type="file"
            accept=".ttf,.otf"
            aria-label="Own font"
            className="absolute inset-0 opacity-0"
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) addFont(f);
            }}
          />
        </span>
      </label>
    );
  if (options?.length)
    return (
      <div className="py-1">
        <span className="label">{label}</span>
        <div className="flex flex-wrap gap-1.5">
          {options.map((o) => (
            <button
              key={o}
              className={value === o ? "key-strong !py-0" : "key !py-0"}
              aria-pressed={value === o}
              onClick={() => set({ [name]: o })}
            >
              {o}
            </button>
          ))}
        </div>
      </div>
    );
  if (typeof value === "boolean")
    return (
      <label className="flex items-baseline justify-between py-1">
        <span className="label">{label} too</span>
        <input type="checkbox" checked={value} onChange={(e) => set({ [name]: e.target.checked })} />
      </label>
    );
  if (name === "text" && recipe.kind === "sign")
    return (
      <label className="block py-1">
        <span className="label">text, a line each</span>
        <textarea
          className="field h-16 w-full resize-y !font-sans"
          value={String(value)}
          maxLength={400}
          aria-label="text"
          onChange={(e) => set({ text: e.target.value })}
        />
      </label>
    );
  if (name === "cap_height" && recipe.setting === "as large as fits") return null;
  if (name === "arc" && recipe.setting !== "on an arc") return null;
  if (typeof value === "string")
    return (
      <label className="block py-1">
        <span className="label">{label}</span>
        <input
          className="field w-full !font-sans"
          value={value}
          maxLength={300}
          onChange={(e) => set({ [name]: e.target.value })}
        />
      </label>
    );
  if ((COUNTS.has(name) && schema.type !== "number") || ANGLES.has(name))
    return (
      <label className="flex items-baseline justify-between gap-2 py-1">
        <span className="label">{label}</span>
        <input
          type="number"
          className="field w-24 text-right"
          value={Number(value)}
          step={1}
          onChange={(e) => Number.isFinite(e.target.valueAsNumber) && set({ [name]: e.target.valueAsNumber })}
        />
      </label>
    );
  return <LengthField label={label} mm={Number(value)} onCommit={(v) => set({ [name]: v })} />;
}
