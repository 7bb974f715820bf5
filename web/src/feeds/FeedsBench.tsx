import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import { post } from "../api/client";
import type { Advice } from "../api/model";
import { CutterDrawing } from "../library/CutterDrawing";
import { Reckon } from "../reckonings/anywhere";
import { inUnit, LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { bare, inQuantity, length, quantity, useUnit } from "../shared/lengths";

export type FeedsAsk = {
  cutter: string;
  material?: string;
  machine?: string;
  job?: string;
  setup?: string;
  rpm?: number;
  feed?: number;
  depth?: number;
  width?: number;
  flutes?: number;
  diameter?: number;
};

/** What if: the window of chip load and edge speed with the point where the cut stands, and what the numbers come to. */
export function FeedsBench({
  ask,
  title,
  onKeep,
  onBack,
}: {
  ask: FeedsAsk;
  title: string;
  onKeep?: (rpm: number, feed: number) => void;
  onBack?: () => void;
}) {
  const { unit } = useUnit();
  const [own, setOwn] = useState<Partial<FeedsAsk>>({});
  const asked = { ...ask, ...own };
  const { data: a, error } = useQuery({
    queryKey: ["feeds", asked],
    queryFn: () => post<Advice>("/feeds", asked),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    retry: 0,
  });
  if (error)
    return (
      <section>
        <p role="alert" className="text-stop">
          {error.message}
        </p>
        {onBack && (
          <button className="key mt-2" onClick={onBack}>
            Back
          </button>
        )}
      </section>
    );
  if (!a) return <p role="status">working it out ...</p>;
  const set = (f: Partial<FeedsAsk>) => setOwn((o) => ({ ...o, ...f })),
    rpm = own.rpm ?? a.rpm,
    feed = own.feed ?? a.feed;
  const changed = Object.keys(own).length > 0;
  return (
    <section aria-label={`Feeds of ${title}`}>
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="text-figure font-semibold">{title}</h2>
        {onBack && (
          <button className="key !py-0" onClick={onBack}>
            Back
          </button>
        )}
      </div>
      <WindowChart
        a={a}
        onPick={(chip, speed) => {
          const n = Math.round((speed * 1000) / (Math.PI * a.diameter));
          set({
            rpm: Math.min(a.rpm_range[1], Math.max(a.rpm_range[0], n)),
            feed: Math.round(chip * n * a.flutes),
          });
        }}
      />
      <Levers {...{ a, rpm, feed, set }} />
      <Judged a={a} />
      <Figures a={a} feed={feed} />
      <p className="label mt-1">
        Chip window: {a.window.chip_source}. Edge speed: {a.window.speed_source}. Feeds now:{" "}
        {changed ? "what if" : a.source}. Energy: {a.energy_source}.
      </p>
      {a.caution && <p className="label mt-1">{a.caution}</p>}
      {onKeep && (
        <div className="mt-2 flex gap-2">
          <button className="key-strong" disabled={!changed} onClick={() => onKeep(rpm, feed)}>
            Use {rpm.toFixed(0)} rpm, {quantity(feed, "feed", unit)}
          </button>
          {changed && (
            <button className="key" onClick={() => setOwn({})}>
              As it was
            </button>
          )}
        </div>
      )}
    </section>
  );
}

type Asked = { a: Advice; rpm: number; feed: number; set: (f: Partial<FeedsAsk>) => void };

/** What is moved to see what if. */
function Levers({ a, rpm, feed, set }: Asked) {
  return (
    <div className="flex gap-3">
      <div className="grid flex-1 gap-1 text-small">
        <div className="grid grid-cols-[6.2rem_1fr] items-center gap-2">
          <NumberToken
            label="spindle speed, what if"
            value={rpm}
            unit=" rpm"
            onCommit={(v) => set({ rpm: v })}
            least={1}
          />
          <input
            type="range"
            min={a.rpm_range[0]}
            max={a.rpm_range[1]}
            step={250}
            value={rpm}
            aria-label="spindle speed"
            className="accent-accent"
            onChange={(e) => set({ rpm: Number(e.target.value), feed })}
          />
        </div>
        <div className="grid grid-cols-[6.2rem_1fr] items-center gap-2">
          <QuantityToken
            of="feed"
            label="feed, what if"
            value={feed}
            onCommit={(v) => set({ feed: v })}
            least={0.001}
          />
          <input
            type="range"
            min={100}
            max={Math.max(12000, a.feed * 1.5)}
            step={50}
            value={feed}
            aria-label="feed"
            className="accent-accent"
            onChange={(e) => set({ feed: Number(e.target.value), rpm })}
          />
        </div>
        <p>
          <LengthToken label="depth engaged" mm={a.depth} onCommit={(depth) => set({ depth, rpm, feed })} />{" "}
          deep,{" "}
          <LengthToken label="width engaged" mm={a.width} onCommit={(width) => set({ width, rpm, feed })} />{" "}
          wide
        </p>
        <p>
          <NumberToken
            label="flutes"
            value={a.flutes}
            onCommit={(flutes) => set({ flutes: Math.round(flutes), rpm, feed })}
            least={1}
          />{" "}
          flute{a.flutes === 1 ? "" : "s"},{" "}
          <LengthToken
            label="diameter"
            mm={a.diameter}
            onCommit={(diameter) => set({ diameter, rpm, feed })}
          />{" "}
          across
        </p>
      </div>
      <CutterDrawing points={a.silhouette} height={92} width={56} />
    </div>
  );
}

function Judged({ a }: Pick<Asked, "a">) {
  const { unit } = useUnit();
  return (
    <ul className="mt-1 grid gap-1" aria-label="Judgement">
      {a.snags.map((s) => (
        <li
          key={s.rule}
          className={`border px-2 py-1 ${s.severity === "stop" ? "border-stop text-stop" : "border-line"}`}
        >
          <b>{{ stop: "Stop.", look: "Look.", note: "Note." }[s.severity]}</b> {inUnit(s.message, unit)}
        </li>
      ))}
      {!a.snags.length && (
        <li className="border border-line px-2 py-1">Inside the window, within power and stiffness.</li>
      )}
    </ul>
  );
}

/** What the numbers come to. */
function Figures({ a, feed }: Pick<Asked, "a" | "feed">) {
  const { unit } = useUnit();
  return (
    <table className="mt-1 w-full text-small">
      <tbody>
        <Row
          what="feed"
          value={quantity(feed, "feed", unit)}
          aside={unit === "mm" ? `${(feed / 60).toFixed(0)} mm/s` : `${(feed / 1524).toFixed(2)} in/s`}
        />
        <Row
          what={
            <Reckon
              name="chip-load"
              given={{ flutes: `${a.flutes}`, rpm: `${a.rpm}`, feed: `${feed} mm/min` }}
            >
              chip a tooth
            </Reckon>
          }
          value={`${bare(a.chip_load, unit, unit === "mm" ? 3 : 4)} ${unit}`}
          aside={`window ${bare(a.window.chip[0], unit, unit === "mm" ? 3 : 4)} to ${bare(a.window.chip[1], unit, unit === "mm" ? 3 : 4)}; thickest ${bare(a.chip_thickness, unit, unit === "mm" ? 3 : 4)}`}
        />
        <Row
          what={
            <Reckon name="edge-speed" given={{ diameter: `${a.diameter}`, rpm: `${a.rpm}` }}>
              edge speed
            </Reckon>
          }
          value={quantity(a.surface_speed, "edge", unit)}
          aside={`window ${(a.window.speed[0] * inQuantity("edge", unit).scale).toFixed(0)} to ${quantity(a.window.speed[1], "edge", unit)}`}
        />
        <Row
          what="removes"
          value={
            unit === "mm"
              ? `${((a.removal * 60) / 1000).toFixed(0)} cm³/min`
              : `${((a.removal * 60) / 16387).toFixed(1)} in³/min`
          }
          aside={quantity(a.energy, "energy", unit)}
        />
        <Row
          what="power"
          value={`${(a.power / 1000).toFixed(2)} kW`}
          aside={
            a.available === null
              ? "the spindle's curve is not entered"
              : `of ${(a.available / 1000).toFixed(2)} kW at this speed`
          }
        />
        <Row
          what={
            <Reckon name="cutter-bend" given={{ diameter: `${a.diameter}`, force: `${a.force}` }}>
              bend at the tip
            </Reckon>
          }
          value={`${bare(a.bend, unit, unit === "mm" ? 3 : 4)} ${unit}`}
          aside={`${a.force.toFixed(0)} N`}
        />
        <Row what="plunge" value={quantity(a.plunge, "feed", unit)} aside={inUnit(a.plunge_reason, unit)} />
        <Row
          what={
            <Reckon name="passes" given={{ step: `${a.step_down}`, diameter: `${a.diameter}` }}>
              deepest pass
            </Reckon>
          }
          value={`${bare(a.step_down, unit)} ${unit}`}
          aside={inUnit(a.step_reason, unit)}
        />
        <Row
          what="full speed after"
          value={`${bare(a.run_up, unit, 1)} ${unit}`}
          aside={
            a.reached
              .filter((r) => r.feed < feed - 1)
              .slice(0, 3)
              .map(
                (r) =>
                  `${length(r.length, unit, 1)}: ${quantity(r.feed, "feed", unit, unit === "mm" ? 1 : 0)}`,
              )
              .join(", ") || `reached even on ${length(5, unit, 1)} moves`
          }
        />
      </tbody>
    </table>
  );
}

const Row = ({ what, value, aside }: { what: ReactNode; value: string; aside: string }) => (
  <tr className="align-baseline">
    <td className="rule py-0.5 pr-2 text-quiet">{what}</td>
    <td className="num rule whitespace-nowrap py-0.5 pr-2 text-right">{value}</td>
    <td className="rule py-0.5 text-small text-quiet">{aside}</td>
  </tr>
);

/** Chip load against edge speed, both on logarithmic scales: the safe region, and where this cut stands. A click moves it. */
function WindowChart({ a, onPick }: { a: Advice; onPick: (chip: number, speed: number) => void }) {
  const { unit } = useUnit();
  const W = 352,
    H = 178,
    L = 44,
    B = 30,
    T = 8,
    R = 18;
  const edge = inQuantity("edge", unit),
    across = edge.scale,
    up = unit === "mm" ? 1 : 1 / 25.4; // what the marks of the axes count in
  const [c0, c1] = a.window.chip,
    [s0, s1] = a.window.speed;
  const xl = Math.log(Math.min(s0, a.surface_speed) / 1.5),
    xh = Math.log(Math.max(s1, a.surface_speed) * 1.3),
    yl = Math.log(Math.min(c0, a.chip_load) / 1.8),
    yh = Math.log(Math.max(c1, a.chip_load) * 1.6);
  const X = (s: number) => L + ((Math.log(s) - xl) / (xh - xl)) * (W - L - R),
    Y = (c: number) => H - B - ((Math.log(c) - yl) / (yh - yl)) * (H - B - T);
  const marks = (lo: number, hi: number, scale: number) =>
    Array.from({ length: 9 }, (_, k) => [1, 2, 5].map((d) => Number(`${d}e${k - 4}`)))
      .flat()
      .filter((v) => Math.log(v / scale) > lo && Math.log(v / scale) < hi);
  const inside =
      a.chip_load >= c0 * 0.999 &&
      a.chip_load <= c1 * 1.001 &&
      a.surface_speed >= s0 * 0.999 &&
      a.surface_speed <= s1 * 1.001,
    px = X(a.surface_speed),
    py = Y(a.chip_load);
  const reach = a.rpm_range.map((n) => (Math.PI * a.diameter * n) / 1000);
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="mt-1 w-full cursor-crosshair border border-line bg-[#fffdf8]"
      role="img"
      aria-label={`Window chart: chip ${length(a.chip_load, unit, 3)} at ${quantity(a.surface_speed, "edge", unit)} is ${inside ? "inside" : "outside"} the window`}
      onClick={(e) => {
        const r = e.currentTarget.getBoundingClientRect(),
          x = ((e.clientX - r.left) / r.width) * W,
          y = ((e.clientY - r.top) / r.height) * H;
        onPick(
          Math.exp(yl + ((H - B - y) / (H - B - T)) * (yh - yl)),
          Math.exp(xl + ((x - L) / (W - L - R)) * (xh - xl)),
        );
      }}
    >
      <defs>
        <pattern id="rubs" width="6" height="6" patternUnits="userSpaceOnUse">
          <circle cx="3" cy="3" r="0.9" fill="#b9ab90" />
        </pattern>
        <pattern id="breaks" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <path d="M0 0V7" stroke="#d9b3a7" strokeWidth="2" />
        </pattern>
      </defs>
      <rect x={L} y={Y(c0)} width={W - L - R} height={Math.max(0, H - B - Y(c0))} fill="url(#rubs)" />
      <rect x={L} y={T} width={W - L - R} height={Math.max(0, Y(c1) - T)} fill="url(#breaks)" />
      <rect
        x={X(s0)}
        y={Y(c1)}
        width={X(s1) - X(s0)}
        height={Y(c0) - Y(c1)}
        fill="#d5e3de"
        stroke="#1c4e49"
        strokeWidth="1.4"
      />
      {reach.map(
        (v, i) =>
          Math.log(v) > xl &&
          Math.log(v) < xh && (
            <path key={i} d={`M${X(v)} ${T}V${H - B}`} stroke="#625d53" strokeDasharray="4 3" />
          ),
      )}
      {marks(xl, xh, across).map((v) => (
        <g key={v}>
          <path d={`M${X(v / across)} ${H - B}v4`} stroke="#21262a" />
          <text x={X(v / across)} y={H - B + 15} fontSize="11" textAnchor="middle" className="num">
            {v}
          </text>
        </g>
      ))}
      {marks(yl, yh, up).map((v) => (
        <g key={v}>
          <path d={`M${L - 4} ${Y(v / up)}h4`} stroke="#21262a" />
          <text x={L - 6} y={Y(v / up) + 4} fontSize="11" textAnchor="end" className="num">
            {v}
          </text>
        </g>
      ))}
      <path d={`M${L} ${T}V${H - B}H${W - R}`} fill="none" stroke="#21262a" />
      <text x={W - R} y={H - 3} fontSize="11.5" textAnchor="end" fill="#625d53">
        edge speed, {edge.name}; dashed: slowest and fastest spindle
      </text>
      <text x={W - R - 4} y={T + 11} fontSize="11.5" textAnchor="end" fill="#625d53">
        chip, {unit} a tooth
      </text>
      <text x={L + 5} y={T + 11} fontSize="11.5" fill="#7c3427">
        too thick: breaks
      </text>
      <text x={L + 5} y={H - B - 5} fontSize="11.5" fill="#625d53">
        too thin: rubs
      </text>
      <path
        d={`M${px} ${T}V${H - B}M${L} ${py}H${W - R}`}
        stroke={inside ? "#1c4e49" : "#a92f22"}
        strokeWidth="0.8"
        strokeDasharray="1.5 3"
      />
      <circle
        cx={px}
        cy={py}
        r="6"
        fill={inside ? "#1c4e49" : "#fff"}
        stroke={inside ? "#fff" : "#a92f22"}
        strokeWidth="2.4"
      />
    </svg>
  );
}
