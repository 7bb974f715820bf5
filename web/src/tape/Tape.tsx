import { useLayoutEffect, useRef, useState } from "react";

import { clock, type Job, type Setup, type SheetPlan } from "../api/model";
import { gradeFill, gradeOf, HoldPatterns, times } from "../holding/grades";

const CELLS = { y: 24, h: 26 },
  HOLD = { y: 58, h: 26 },
  HEIGHT = 116;
/** Height of a hold on the strip: 1 times its load at a quarter, 32 times at the top, in equal steps for equal ratios. */
const level = (r: number) => Math.min(1, Math.max(0.06, 0.25 + (Math.log2(Math.max(r, 0.05)) / 5) * 0.75));

/** The cutting order as one strip: a cell a cut, length is time, gaps are cutter changes. Scrubbing it moves the table to that moment; a cell is dragged to another place in the order. */
export function Tape({
  job,
  setup,
  plan,
  time,
  setTime,
  selected,
  onSelect,
  onMove,
}: {
  job: Job;
  setup: Setup;
  plan: SheetPlan;
  time: number | null;
  setTime: (t: number | null) => void;
  selected: string | null;
  onSelect: (id: string) => void;
  onMove?: (cut: string, before: string) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800),
    [grab, setGrab] = useState<{ cut: number; from: number; at: number } | null>(null);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => setWidth(box.current!.clientWidth));
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  const left = 58,
    right = 18,
    total = Math.max(plan.seconds, 1),
    X = (t: number) => left + (t / total) * (width - left - right);
  const at = (clientX: number) => {
    const r = box.current!.getBoundingClientRect();
    return Math.min(total, Math.max(0, ((clientX - r.left - left) / (width - left - right)) * total));
  };
  const step =
    [5, 10, 30, 60, 120, 300, 600, 1800].find((s) => (s / total) * (width - left - right) > 62) ?? 3600;
  const names = new Map(job.parts.map((p) => [p.id, p.name])),
    outline = new Map(job.parts.map((p) => [p.id, p.contours[0].name])),
    hold = plan.hold,
    margin = hold?.margin ?? 2;
  const least = new Map<number, number>(); // by cut: the least of what it loads
  if (hold)
    for (const rows of [...Object.values(hold.pieces), hold.sheet])
      for (const [k, r] of rows) if (r !== null) least.set(k, Math.min(r, least.get(k) ?? Infinity));
  const freed = new Map<number, string>(Object.entries(hold?.freed ?? {}).map(([q, k]) => [k, q])),
    drops = new Set(hold?.marks.filter((m) => m[1] === "drop").map((m) => m[0]));
  const deepest = Math.max(1, ...plan.cuts.map((c) => c.passes));
  const current = time === null ? null : (plan.cuts.findLast((c) => c.begins <= time) ?? null),
    index = current ? plan.cuts.indexOf(current) : -1;
  const hop = (way: 1 | -1) => {
    const t = time ?? 0,
      next =
        way > 0 ? plan.cuts.find((c) => c.begins > t + 0.01) : plan.cuts.findLast((c) => c.begins < t - 0.01);
    setTime(next ? next.begins : way > 0 ? total : 0);
  };
  /** The cut before which a dragged cell is let go; the number of cuts: at the end. */
  const slot =
    grab && Math.abs(grab.at - grab.from) > 6
      ? (() => {
          const t = at(grab.at),
            k = plan.cuts.findIndex((c) => c.begins + c.seconds / 2 > t);
          return k < 0 ? plan.cuts.length : k;
        })()
      : null;
  const drop = () => {
    if (grab && slot !== null && onMove && slot !== grab.cut && slot !== grab.cut + 1)
      onMove(plan.cuts[grab.cut].name, plan.cuts[slot]?.name ?? "");
    else if (grab) setTime(at(grab.at));
    setGrab(null);
  };
  const trial = plan.cuts.findLast((c) => c.trial),
    more = plan.cuts.some((c) => !c.trial);
  const now = current && hold ? least.get(index) : undefined;
  return (
    <section aria-label="Tape: order of cuts" className="border-t-2 border-ink bg-paper">
      <div className="flex items-baseline gap-3 px-3 pt-1 text-small">
        <b className="font-semibold">Order of cuts</b>
        <span className="num">{plan.cuts.length}</span>
        <span className="text-quiet">cuts,</span>
        <span className="num">{clock(total)}</span>
        <span className="min-w-0 truncate text-quiet">
          {current
            ? `${names.get(current.piece.split("#")[0])} piece ${current.piece.split("#")[1]}: ${current.contour}, ${current.kind}, ${setup.cutters.find((c) => c.id === current.cutter)?.name}, ${current.passes} pass${current.passes === 1 ? "" : "es"}${current.tabs ? `, ${current.tabs} tabs` : ""}${now !== undefined ? `; held ${times(now)}×` : ""}`
            : "drag along the strip, or use the arrow keys, to see the table at a moment; drag a cell to cut it earlier or later"}
        </span>
        {!hold && (
          <span role="status" className="ml-auto text-quiet">
            working out the hold ...
          </span>
        )}
        {time !== null && (
          <button className="key ml-auto !py-0" onClick={() => setTime(null)}>
            Whole plan
          </button>
        )}
      </div>
      <div
        ref={box}
        role="slider"
        tabIndex={0}
        aria-label="Moment in the program"
        aria-valuemin={0}
        aria-valuemax={Math.round(total)}
        aria-valuenow={Math.round(time ?? 0)}
        aria-valuetext={`${clock(time ?? 0)}${now !== undefined ? `, held ${times(now)} times its load` : ""}`}
        className="relative cursor-ew-resize touch-none select-none"
        style={{ height: HEIGHT }}
        data-testid="tape"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          const y = e.clientY - e.currentTarget.getBoundingClientRect().top,
            t = at(e.clientX),
            k = plan.cuts.findIndex((c) => c.begins <= t && t <= c.begins + c.seconds);
          if (onMove && k >= 0 && y > CELLS.y - 3 && y < CELLS.y + CELLS.h + 3)
            setGrab({ cut: k, from: e.clientX, at: e.clientX });
          else setTime(t);
        }}
        onPointerMove={(e) => {
          if (!(e.buttons & 1)) return;
          if (grab) setGrab({ ...grab, at: e.clientX });
          else setTime(at(e.clientX));
        }}
        onPointerUp={drop}
        onPointerCancel={() => setGrab(null)}
        onKeyDown={(e) => {
          if (e.key === "ArrowRight" || e.key === "ArrowLeft") {
            e.preventDefault();
            const way = e.key === "ArrowRight" ? 1 : -1;
            if (e.shiftKey && onMove && current)
              onMove(current.name, plan.cuts[way > 0 ? index + 2 : index - 1]?.name ?? "");
            else hop(way);
          }
          if (e.key === "Home") setTime(0);
          if (e.key === "End") setTime(total);
          if (e.key === "Escape") {
            setGrab(null);
            setTime(null);
          }
        }}
      >
        <svg width={width} height={HEIGHT} className="block">
          <defs>
            <pattern
              id="inside"
              width="5"
              height="5"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <rect width="5" height="5" fill="#efe3c8" />
              <path d="M0 0V5" stroke="#8c7a55" strokeWidth="1.6" />
            </pattern>
            <HoldPatterns name="tape" />
          </defs>
          {Array.from({ length: Math.floor(total / step) + 1 }, (_, i) => i * step).map((t) => (
            <g key={t}>
              <path d={`M${X(t)} 16v4`} stroke="#21262a" />
              <text x={X(t)} y={12} fontSize={12} textAnchor="middle" className="num">
                {clock(t)}
              </text>
            </g>
          ))}
          <text x={8} y={41} fontSize={13} fontWeight={600}>
            cuts
          </text>
          <text x={8} y={HOLD.y + 16} fontSize={13} fontWeight={600}>
            hold
          </text>
          <text x={8} y={99} fontSize={13} fontWeight={600}>
            frees
          </text>
          {hold && (
            <g>
              {[1, margin].map((r) => (
                <g key={r}>
                  <path
                    d={`M${left} ${HOLD.y + HOLD.h * (1 - level(r))}H${width - right}`}
                    stroke="#21262a"
                    strokeWidth={r === 1 ? 1.1 : 0.6}
                    strokeDasharray={r === 1 ? undefined : "3 3"}
                  />
                  {r === 1 && (
                    <text
                      x={left - 3}
                      y={HOLD.y + HOLD.h * (1 - level(r)) + 3.5}
                      fontSize={12}
                      textAnchor="end"
                      className="num"
                    >
                      1×
                    </text>
                  )}
                </g>
              ))}
            </g>
          )}
          {plan.cuts.map((c, i) => {
            const x = X(c.begins),
              w = Math.max(1, X(c.begins + c.seconds) - x - 0.6),
              frees = freed.get(i),
              outer = c.frees && c.contour === outline.get(c.piece.split("#")[0]),
              mine = selected === c.piece,
              r = least.get(i),
              held = r !== undefined;
            return (
              <g key={i} opacity={grab?.cut === i && slot !== null ? 0.35 : 1}>
                <rect
                  x={x}
                  y={CELLS.y}
                  width={w}
                  height={CELLS.h}
                  data-cell={c.name}
                  onPointerDown={() => onSelect(c.piece)}
                  fill={outer ? (mine ? "#1c4e49" : "#8c8370") : mine ? "#1c4e49" : "url(#inside)"}
                  stroke={mine ? "#1c4e49" : "#5f5847"}
                  strokeWidth={w > 4 ? 0.7 : 0}
                  opacity={time !== null && c.begins + c.seconds > time ? 0.5 : 1}
                />
                {Array.from({ length: c.passes - 1 }, (_, k) =>
                  w > 7 ? (
                    <path
                      key={k}
                      d={`M${x} ${CELLS.y + (CELLS.h * (k + 1)) / c.passes}h${w}`}
                      stroke="#faf6ee"
                      strokeWidth={0.9}
                    />
                  ) : null,
                )}
                {held && (
                  <rect
                    x={x}
                    y={HOLD.y + HOLD.h * (1 - level(Math.max(r, 1)))}
                    width={w}
                    height={HOLD.h * level(Math.max(r, 1))}
                    fill={gradeFill(gradeOf(r, margin), "tape")}
                    stroke={r < margin ? "#21262a" : "none"}
                    strokeWidth={0.6}
                  >
                    <title>{`held ${times(r)} times what this cut asks`}</title>
                  </rect>
                )}
                {frees !== undefined && (
                  <path
                    d={`M${x + w - 4} 91h8l-4 7z`}
                    fill={frees in hold!.loose && hold!.loose[frees] === i ? "#21262a" : "#fffdf8"}
                    stroke="#21262a"
                    strokeWidth={0.9}
                  >
                    <title>
                      {frees in hold!.loose && hold!.loose[frees] === i
                        ? "free"
                        : "parted, but for tabs or a skin"}
                    </title>
                  </path>
                )}
                {frees === undefined && drops.has(i) && (
                  <circle cx={x + w} cy={94.5} r={2.3} fill="none" stroke="#21262a" strokeWidth={1}>
                    <title>a drop comes free</title>
                  </circle>
                )}
              </g>
            );
          })}
          {plan.changes.map(([t, id], i) => {
            const cutter = setup.cutters.find((c) => c.id === id),
              name = cutter?.name ?? id,
              next = plan.changes[i + 1],
              room = X(next ? next[0] : total) - X(t);
            return (
              <g key={`${t}/${id}`}>
                <path d={`M${X(t)} 20V110`} stroke="#21262a" strokeDasharray="1.5 3" />
                <text x={X(t) + 4} y={111} fontSize={12} fill="#625d53">
                  {room > (name.length + 5) * 6.2
                    ? `load ${name}`
                    : room > 26 || !next
                      ? `T${cutter?.number}`
                      : ""}
                  <title>load {name}</title>
                </text>
              </g>
            );
          })}
          {trial && more && (
            <g>
              <path
                d={`M${X(trial.begins + trial.seconds) + 1} 18V104M${X(trial.begins + trial.seconds) + 4} 18V104`}
                stroke="#1c4e49"
                strokeWidth={1.2}
              />
              <text
                x={X(trial.begins + trial.seconds) + 8}
                y={104}
                fontSize={12}
                fontWeight={600}
                fill="#1c4e49"
              >
                trial ends
              </text>
            </g>
          )}
          {slot !== null &&
            (() => {
              const c = plan.cuts[Math.min(slot, plan.cuts.length - 1)],
                x = slot < plan.cuts.length ? X(c.begins) : X(c.begins + c.seconds);
              return (
                <path
                  d={`M${x} ${CELLS.y - 6}v${CELLS.h + 12}M${x - 5} ${CELLS.y - 6}h10M${x - 5} ${CELLS.y + CELLS.h + 6}h10`}
                  stroke="#1c4e49"
                  strokeWidth={2.4}
                />
              );
            })()}
          {time !== null && (
            <g>
              <path d={`M${X(time)} 18V112`} stroke="#a92f22" strokeWidth={2} />
              <rect
                x={Math.min(Math.max(X(time) - 25, 0), width - 50)}
                y={0}
                width={50}
                height={17}
                fill="#a92f22"
              />
              <text
                x={Math.min(Math.max(X(time), 25), width - 25)}
                y={12.5}
                fontSize={12}
                fill="#fff"
                textAnchor="middle"
                className="num"
              >
                {clock(time)}
              </text>
            </g>
          )}
        </svg>
        <span className="sr-only">deepest cut {deepest} passes</span>
      </div>
    </section>
  );
}
