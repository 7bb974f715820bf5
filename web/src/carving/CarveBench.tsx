import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type React from "react";

import { stepsChange } from "../api/changes";
import { call } from "../api/client";
import { type Edits } from "../api/edits";
import {
  type CarvingView,
  clock,
  type FoldView,
  type InlayView,
  type Job,
  type Operation,
  type Part,
  type Setup,
  type XY,
} from "../api/model";
import { Pick } from "../shared/Pick";
import { Snags } from "../shared/Snags";
import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { bare, length, metres, useUnit } from "../shared/lengths";
import { Sentence } from "../stations/cuts/Sentence";
import { StepTools } from "../stations/cuts/StepTools";
import { changing } from "../stations/cuts/features";

type Stroke = { depth: number; width: number; at: XY };
export type InlayAsk = { depth: number; gap: number; saw: number; clear: number | null; y: number | null };
export type CarveLook = { part: string | null; path: boolean; inlay: InlayAsk | null };
export const NO_LOOK: CarveLook = { part: null, path: false, inlay: null };

/** Parts with closed shapes that can be carved. */
export const carvable = (job: Job, setup: Setup): Part[] =>
  job.parts.filter(
    (p) =>
      p.setup === setup.id &&
      p.features.some((f) => (f.kind === "engraving" || f.kind === "pocket") && f.d.endsWith("Z")),
  );
const chosen = (job: Job, setup: Setup, look: CarveLook): Part | undefined => {
  const all = carvable(job, setup);
  return all.find((p) => p.id === look.part) ?? all.find((p) => stepOf(setup, p)) ?? all[0];
};
const stepOf = (setup: Setup, part: Part) =>
  setup.contours[part.id]?.flatMap((c) => c.steps).find((s) => s.kind === "v-carve");

const useCarving = (job: Job, setup: Setup, part: Part | undefined) =>
  useQuery({
    queryKey: ["carving", job.id, job.revision, setup.id, part?.id],
    enabled: !!part && !!setup.contours[part.id],
    staleTime: Infinity,
    placeholderData: (was: CarvingView | undefined) => (was?.part === part?.id ? was : undefined),
    queryFn: () =>
      call<CarvingView>(`/jobs/${job.id}/carving?setup=${encodeURIComponent(setup.id)}&part=${part!.id}`),
  });
const inlayQuery = (setup: Setup, part: Part, ask: InlayAsk) =>
  `setup=${encodeURIComponent(setup.id)}&part=${part.id}&depth=${ask.depth}&gap=${ask.gap}&saw=${ask.saw}${ask.clear ? `&clear=${ask.clear}` : ""}`;
const useInlay = (job: Job, setup: Setup, part: Part | undefined, ask: InlayAsk | null) =>
  useQuery({
    queryKey: ["inlay", job.id, part?.shape, setup.id, ask],
    enabled: !!part && !!ask,
    staleTime: Infinity,
    retry: false,
    placeholderData: (was: InlayView | undefined) => was,
    queryFn: () =>
      call<InlayView>(
        `/jobs/${job.id}/inlay?${inlayQuery(setup, part!, ask!)}${ask!.y === null ? "" : `&y=${ask!.y}`}`,
      ),
  });

/** The face as it will be carved, lit from the side; over it the bit's path and the places that are spoken of, or the section through an inlay. */
export function CarveBoard({
  job,
  setup,
  look,
  setLook,
}: {
  job: Job;
  setup: Setup;
  look: CarveLook;
  setLook: (l: CarveLook) => void;
}) {
  const { unit } = useUnit();
  const part = chosen(job, setup, look),
    seen = useCarving(job, setup, part),
    inlay = useInlay(job, setup, part, look.inlay);
  const box = useRef<HTMLDivElement>(null),
    [room, setRoom] = useState<XY>([900, 600]),
    [ready, setReady] = useState(""),
    [stroke, setStroke] = useState<Stroke | null>(null),
    waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const w = new ResizeObserver(() => setRoom([el.clientWidth, el.clientHeight]));
    w.observe(el);
    return () => w.disconnect();
  }, []);
  if (!part)
    return (
      <p className="grid h-full place-items-center text-quiet">
        No part here has closed shapes to carve. Make a lettered board at Parts, or drop a drawing with
        letters.
      </p>
    );
  const [w, h] = [part.box[2] - part.box[0], part.box[3] - part.box[1]],
    below = look.inlay ? 250 : 0;
  const k = Math.min((room[0] - 60) / w, (room[1] - 110 - below) / h);
  const address = `/api/jobs/${job.id}/carved.png?setup=${encodeURIComponent(setup.id)}&part=${part.id}&px=${Math.round(Math.min(1600, Math.max(600, w * k * 1.25)) / 100) * 100}&r=${seen.data?.digest ?? ""}`;
  const paths = Object.values(setup.paths)[0]?.[part.id]?.filter((p) => p.kind === "v-carve") ?? [];
  const step = stepOf(setup, part);
  const measure = (e: React.PointerEvent<HTMLElement>) => {
    const r = e.currentTarget.getBoundingClientRect(),
      x = (e.clientX - r.left) / k,
      y = h - (e.clientY - r.top) / k;
    clearTimeout(waiting.current);
    waiting.current = setTimeout(
      () =>
        call<Stroke | null>(
          `/jobs/${job.id}/carving/at?setup=${encodeURIComponent(setup.id)}&part=${part.id}&x=${x.toFixed(2)}&y=${y.toFixed(2)}`,
        )
          .then(setStroke)
          .catch(() => setStroke(null)),
      60,
    );
  };
  return (
    <div
      ref={box}
      className="absolute inset-0 flex flex-col items-center justify-center gap-3 overflow-hidden p-3"
      data-testid="carve-board"
    >
      <div className="absolute left-3 top-2 flex gap-1.5 text-small">
        <button
          className={`${look.path ? "key-strong" : "key"} !py-0`}
          aria-pressed={look.path}
          onClick={() => setLook({ ...look, path: !look.path })}
        >
          The bit's path
        </button>
      </div>
      <figure
        className="relative cursor-crosshair"
        style={{ width: w * k, height: h * k }}
        onPointerMove={measure}
        onPointerLeave={() => {
          clearTimeout(waiting.current);
          setStroke(null);
        }}
      >
        {seen.data && (
          <img
            src={address}
            alt={`${part.name} as it will be carved, lit from the upper left`}
            className="h-full w-full drop-shadow-md"
            onLoad={() => setReady(address)}
            data-ready={ready === address}
            draggable={false}
          />
        )}
        {(!seen.data || ready !== address) && (
          <p role="status" className="absolute inset-x-0 top-1/2 text-center text-quiet">
            {seen.error ? (seen.error as Error).message : "carving it ..."}
          </p>
        )}
        <svg
          className="pointer-events-none absolute inset-0"
          width={w * k}
          height={h * k}
          viewBox={`0 0 ${w} ${h}`}
          aria-hidden
        >
          <g transform={`translate(0 ${h}) scale(1 -1)`}>
            {look.path &&
              paths.map((p, i) => (
                <path
                  key={i}
                  d={p.d}
                  fill="none"
                  stroke={p.cutter === step?.cutter ? "#12211f" : "#fffdf8"}
                  strokeWidth={1.1 / k}
                  strokeDasharray={p.cutter === step?.cutter ? undefined : `${4 / k} ${2 / k}`}
                />
              ))}
            {seen.data?.places.map((pl) =>
              pl.at.map(([x, y], i) => (
                <g key={pl.rule + i} fill="none" stroke="#8a5a00" strokeWidth={2 / k}>
                  <circle cx={x} cy={y} r={9 / k} />
                  <path d={`M${x - 14 / k} ${y}H${x - 9 / k}M${x + 9 / k} ${y}H${x + 14 / k}`} />
                </g>
              )),
            )}
            {look.inlay && inlay.data && (
              <path
                d={`M0 ${inlay.data.y}H${w}`}
                stroke="#a92f22"
                strokeWidth={1.6 / k}
                strokeDasharray={`${9 / k} ${4 / k} ${2 / k} ${4 / k}`}
              />
            )}
          </g>
        </svg>
        {stroke && (
          <p
            className="num pointer-events-none absolute z-10 -translate-x-1/2 whitespace-nowrap border border-ink bg-[#fffdf8] px-1.5 text-small shadow"
            role="status"
            style={{ left: stroke.at[0] * k, top: Math.max(0, (h - stroke.at[1]) * k - 34) }}
          >
            {length(stroke.width, unit)} wide, {length(stroke.depth, unit)} deep
          </p>
        )}
        <figcaption className="label num absolute -bottom-6 inset-x-0 text-center">
          {length(w, unit, 0)} x {length(h, unit, 0)}
          {step ? `; deepest ${length(step.depth, unit)}; hover a stroke to measure it` : ""}
        </figcaption>
      </figure>
      {look.inlay && (
        <div className="mt-7 w-full" style={{ height: below - 40 }}>
          {inlay.error ? (
            <p role="alert" className="text-center text-stop">
              {(inlay.error as Error).message}
            </p>
          ) : inlay.data ? (
            <Section view={inlay.data} busy={inlay.isFetching} />
          ) : (
            <p role="status" className="text-center text-quiet">
              working out socket and plug ...
            </p>
          )}
        </div>
      )}
    </div>
  );
}

/** Section through board and plug: the board hatched one way, the plug the other, heights drawn larger than widths. */
function Section({ view, busy }: { view: InlayView; busy: boolean }) {
  const { unit } = useUnit();
  const [x0, x1] = [view.x[0], view.x[view.x.length - 1]],
    low = -view.depth - 2.5,
    high = view.saw + 3;
  const W = 1000,
    H = 190,
    sx = W / (x1 - x0),
    sy = H / (high - low);
  const X = (x: number) => (x - x0) * sx,
    Y = (z: number) => H - (z - low) * sy;
  const line = (z: number[]) =>
    z.map((v, i) => `${i ? "L" : "M"}${X(view.x[i]).toFixed(1)} ${Y(v).toFixed(1)}`).join("");
  return (
    <figure className={busy ? "opacity-60" : ""} data-testid="inlay-section">
      <svg
        viewBox={`-6 -4 ${W + 12} ${H + 8}`}
        className="h-[190px] w-full"
        preserveAspectRatio="none"
        role="img"
        aria-label={`Section at Y ${view.y.toFixed(1)}: socket ${view.depth} deep, plug ${view.gap} above its floor`}
      >
        <defs>
          <pattern
            id="hatch-board"
            width="7"
            height="7"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V7" stroke="#7c6a4a" strokeWidth="1.1" />
          </pattern>
          <pattern
            id="hatch-plug"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(-45)"
          >
            <path d="M0 0V9" stroke="#1c4e49" strokeWidth="1.6" />
          </pattern>
        </defs>
        <path
          d={`${line(view.socket)}L${X(x1)} ${H}L${X(x0)} ${H}Z`}
          fill="url(#hatch-board)"
          stroke="#21262a"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={`${line(view.plug)}L${X(x1)} 0L${X(x0)} 0Z`}
          fill="url(#hatch-plug)"
          stroke="#1c4e49"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={`M0 ${Y(view.saw / 2)}H${W}`}
          stroke="#a92f22"
          strokeWidth="1.3"
          strokeDasharray="10 5 2 5"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="flex flex-wrap justify-center gap-x-5 text-small">
        <span>plug above, turned over</span>
        <span className="text-stop">saw here</span>
        <span>board below</span>
        <span className="label">heights drawn {(sy / sx).toFixed(0)} times larger than widths</span>
        <span className="num">Y {bare(view.y, unit, 1)}</span>
      </figcaption>
    </figure>
  );
}

type Props = { job: Job; setup: Setup; edits: Edits; look: CarveLook; setLook: (l: CarveLook) => void };

export function CarveDocket({ job, setup, edits, look, setLook }: Props) {
  const { unit } = useUnit();
  const all = carvable(job, setup),
    part = chosen(job, setup, look),
    seen = useCarving(job, setup, part),
    inlay = useInlay(job, setup, part, look.inlay);
  if (!part) return <p>No part of this setup has closed shapes to carve.</p>;
  const on =
    part.features.find((f) => f.d.endsWith("Z") && (f.kind === "engraving" || f.kind === "pocket"))!.kind ===
    "pocket"
      ? "pockets"
      : "engravings";
  const own = job.steps.find((s) => s.part === part.id && s.on === on && !s.contour),
    steps = own?.steps ?? setup.operations.filter((o) => o.on === on),
    step = steps.find((s) => s.kind === "v-carve");
  const at: Record<string, string> = own ? { part: part.id } : { setup: setup.id };
  const write = (next: Operation[]) =>
      edits.run({ kind: "change-steps", ...at, on, ...stepsChange(steps, next) }),
    change = changing(edits, at, on, step?.id ?? "");
  const plan = seen.data?.steps.find((s) => s.operation === step?.id),
    vee = setup.cutters.filter((c) => c.kind === "v-bit").sort((a, b) => b.diameter - a.diameter)[0];
  const seconds = setup.sheets
      .flatMap((s) => s.cuts)
      .filter((c) => c.kind === "v-carve" && c.piece.startsWith(`${part.id}#`)),
    one = seconds.filter((c) => c.piece === seconds[0]?.piece).reduce((n, c) => n + c.seconds, 0);
  const figures: [string, string][] = plan
    ? [
        ["widest stroke at the surface", length(plan.width, unit)],
        ["deepest", length(plan.depth, unit)],
        ["cutting", metres(plan.length, unit)],
        ["time a piece", one ? clock(one) : "not nested"],
      ]
    : [];
  return (
    <>
      <h2 className="text-figure font-semibold">How it is carved</h2>
      {all.length > 1 && (
        <label className="flex items-baseline gap-2">
          <span className="label">part</span>
          <Pick
            className="min-w-0 flex-1"
            label="Part that is carved"
            value={part.id}
            options={all.map((p): [string, string] => [p.id, p.name])}
            onPick={(id) => setLook({ ...look, part: id, inlay: null })}
          />
        </label>
      )}
      {all.length === 1 && (
        <p className="label">
          {part.name}, {seen.data?.shapes ?? ""} closed outlines.{" "}
          {own ? "Its own steps." : "As the setup says."}
        </p>
      )}
      {step ? (
        <section
          className="mt-2 border border-line bg-paper px-2.5 py-1"
          aria-label={`Carving of ${part.name}`}
        >
          <Sentence
            step={step}
            setup={setup}
            plan={plan}
            change={change}
            tools={
              <StepTools
                step={step}
                index={steps.indexOf(step)}
                steps={steps}
                setup={setup}
                plan={plan}
                change={change}
                write={write}
              />
            }
          />
          <dl className="grid grid-cols-2 gap-x-3 pb-1 text-small">
            {figures.map(([k, v]) => (
              <div key={k} className="contents">
                <dt className="label">{k}</dt>
                <dd className="num text-right">{v}</dd>
              </div>
            ))}
          </dl>
          {plan && <p className="label pb-1">{plan.why.find(([k]) => k === "order")?.[1]}.</p>}
        </section>
      ) : vee ? (
        <p className="mt-2">
          Its lines are not carved yet.{" "}
          <button
            className="key-strong"
            onClick={() => write([{ kind: "v-carve", id: `${on} carve`, on, cutter: vee.id } as Operation])}
          >
            Carve them with {vee.name}
          </button>
        </p>
      ) : (
        <p className="mt-2 text-look">
          The setup has no V bit; put one into the shop library and start its steps from there.
        </p>
      )}
      <section className="mt-3 border-t border-line pt-2" aria-label="Inlay">
        <h3 className="flex items-baseline justify-between">
          <b className="text-head font-semibold">Inlay pair</b>
          <button
            className="key !py-0"
            aria-pressed={!!look.inlay}
            onClick={() =>
              setLook({
                ...look,
                inlay: look.inlay
                  ? null
                  : {
                      depth: Math.min(4, Math.max(1, (plan?.depth ?? 4) * 0.7)),
                      gap: 0.3,
                      saw: 1.5,
                      clear: endMills(setup)[0]?.diameter ?? null,
                      y: null,
                    },
              })
            }
          >
            {look.inlay ? "Put away" : "Work one out"}
          </button>
        </h3>
        {!look.inlay && (
          <p className="label">
            Socket and plug from the same outlines and bit, with the section through both.
          </p>
        )}
        {look.inlay && (
          <InlayForm
            job={job}
            setup={setup}
            part={part}
            look={look}
            setLook={setLook}
            view={inlay.data}
            busy={inlay.isFetching}
          />
        )}
      </section>
      <Fold setup={setup} bit={step ? setup.cutters.find((c) => c.id === step.cutter) : vee} />
      <Snags
        snags={setup.snags.filter((s) => s.rule.startsWith("carve.") && s.where?.part === part.id)}
        edits={edits}
      />
    </>
  );
}

/** End mills of the setup that could clear floors, one of each diameter, the finest first. */
function endMills(setup: Setup) {
  const able = setup.cutters
    .filter((c) => MILLS.has(c.kind) && setup.material.family in c.feeds)
    .sort((a, b) => a.diameter - b.diameter);
  return able.filter((c, k) => k === 0 || able[k - 1].diameter !== c.diameter);
}

const MILLS = new Set([
  "straight",
  "up-cut",
  "down-cut",
  "compression",
  "roughing",
  "single-flute",
  "diamond-tipped",
]);

function InlayForm({
  job,
  setup,
  part,
  look,
  setLook,
  view,
  busy,
}: {
  job: Job;
  setup: Setup;
  part: Part;
  look: CarveLook;
  setLook: (l: CarveLook) => void;
  view?: InlayView;
  busy: boolean;
}) {
  const { unit } = useUnit();
  const ask = look.inlay!,
    set = (f: Partial<InlayAsk>) => setLook({ ...look, inlay: { ...ask, ...f } });
  const [y, setY] = useState<number | null>(null);
  const mills = endMills(setup);
  const stopped = view?.snags.some((s) => s.severity === "stop") ?? false;
  return (
    <div className="text-small">
      <p className="leading-[1.6]">
        The socket is{" "}
        <LengthToken label="depth of the socket" mm={ask.depth} onCommit={(depth) => set({ depth })} /> deep,
        the plug stays{" "}
        <LengthToken
          label="glue gap"
          mm={ask.gap}
          onCommit={(gap) => set({ gap })}
          why="for glue between the plug's face and the floor"
        />{" "}
        above its floor,{" "}
        <LengthToken label="room for the saw" mm={ask.saw} onCommit={(saw) => set({ saw })} /> to saw it off;
        floors by{" "}
        <Choice
          wide
          label="end mill for floors"
          value={ask.clear === null ? "" : String(ask.clear)}
          options={[
            ["", "the bit alone"],
            ...mills.map((c): [string, string] => [String(c.diameter), c.name]),
          ]}
          onPick={(v) => set({ clear: v ? Number(v) : null })}
        />
        .
      </p>
      {view && (
        <>
          <dl className={`mt-1 grid grid-cols-[1fr_auto] gap-x-3 ${busy ? "opacity-60" : ""}`}>
            <dt>overlap of the two</dt>
            <dd className="num text-right">
              {view.mating.overlap === 0 ? "none" : `${view.mating.overlap.toFixed(1)} mm³`}
            </dd>
            <dt>gap under the plug</dt>
            <dd className="num text-right">{length(view.mating.floor_gap, unit, unit === "mm" ? 2 : 4)}</dd>
            <dt>the plug's size is reckoned</dt>
            <dd className="num text-right">{length(view.plane, unit)} down</dd>
            <dt>the plug's board at least</dt>
            <dd className="num text-right">
              {bare(view.plug_board[0], unit, 0)} x {length(view.plug_board[1], unit, 0)}
            </dd>
          </dl>
          <label className="mt-1 flex items-center gap-2">
            <span className="label shrink-0">section at Y</span>
            <input
              type="range"
              className="min-w-0 flex-1 accent-[#1c4e49]"
              min={view.range[0]}
              max={view.range[1]}
              step={(view.range[1] - view.range[0]) / 200}
              value={y ?? view.y}
              aria-label="Where the section runs"
              onChange={(e) => setY(Number(e.target.value))}
              onPointerUp={() => y !== null && set({ y })}
              onKeyUp={() => y !== null && set({ y })}
            />
            <span className="num w-14 text-right">{bare(y ?? view.y, unit, 1)}</span>
          </label>
          {view.snags
            .filter((x) => x.severity !== "note")
            .map((x) => (
              <p
                key={x.message}
                role={x.severity === "stop" ? "alert" : undefined}
                className={x.severity === "stop" ? "text-stop" : ""}
              >
                <b>{x.severity === "stop" ? "Stop." : "Look."}</b> {x.message}
              </p>
            ))}
          <p className="label mt-1">cut with {view.cutters.join(" and ")}</p>
          {!stopped && (
            <p className="mt-1.5">
              <a
                className="key inline-block"
                href={`/api/jobs/${job.id}/inlay.zip?${inlayQuery(setup, part, ask)}`}
                download
              >
                Both programs
              </a>{" "}
              <span className="label">glue, press in, let it set, saw off, face</span>
            </p>
          )}
        </>
      )}
    </div>
  );
}

/** A V groove to fold sheet along, and what the bend does to the length. */
function Fold({
  setup,
  bit,
}: {
  setup: Setup;
  bit?: { angle?: number | null; diameter: number; tip: number; name: string };
}) {
  const { unit } = useUnit();
  const sheet = setup.stock.find((s) => s.quantity)?.thickness ?? 3;
  const [t, setT] = useState(Math.min(4, sheet)),
    [skin, setSkin] = useState(Math.min(0.8, t / 4)),
    [angle, setAngle] = useState(90),
    [open, setOpen] = useState(false);
  const f = useQuery({
    queryKey: ["fold", t, skin, angle, bit?.angle, bit?.diameter],
    enabled: open && !!bit,
    retry: false,
    queryFn: () =>
      call<FoldView>(
        `/fold?thickness=${t}&skin=${skin}&angle=${angle}&bit_angle=${bit!.angle ?? 90}&bit_diameter=${bit!.diameter}&tip=${bit!.tip}`,
      ),
  });
  if (!bit) return null;
  return (
    <details
      className="mt-3 border-t border-line pt-2"
      onToggle={(e) => setOpen((e.target as HTMLDetailsElement).open)}
    >
      <summary className="cursor-pointer text-head font-semibold">Groove for folding</summary>
      <p className="text-small leading-[1.6]">
        In <LengthToken label="thickness of the sheet" mm={t} onCommit={setT} /> of sheet {bit.name} leaves a
        skin of <LengthToken label="skin" mm={skin} onCommit={setSkin} />, folded by{" "}
        <NumberToken
          label="fold angle"
          value={angle}
          unit="°"
          least={1}
          onCommit={(v) => setAngle(Math.min(179, v))}
        />
        .
      </p>
      {f.error && (
        <p role="alert" className="text-stop">
          {(f.error as Error).message}
        </p>
      )}
      {f.data && (
        <>
          <dl className="grid grid-cols-[1fr_auto] gap-x-3 text-small">
            <dt>groove</dt>
            <dd className="num text-right">
              {length(f.data.depth, unit)} deep, {length(f.data.width, unit)} wide
            </dd>
            <dt>bend allowance</dt>
            <dd className="num text-right">{length(f.data.allowance, unit)}</dd>
            <dt>the blank is shorter by</dt>
            <dd className="num text-right">{length(f.data.deduction, unit)}</dd>
          </dl>
          <p className="label">{f.data.says}. The blank is the sum of the outer sides less that.</p>
        </>
      )}
    </details>
  );
}
