import { useLayoutEffect, useRef, useState, type ReactNode } from "react";

import { clock, type CutCell, type Job, type Setup, type SheetPlan } from "../api/model";
import { times } from "../holding/grades";
import {
  Cell,
  CELLS,
  HEIGHT,
  holdByCut,
  HoldLines,
  LEFT,
  Loads,
  Moves,
  Moment,
  Patterns,
  RIGHT,
  type Scale,
  SlotMark,
  Stops,
  Ticks,
  TrialEnd,
} from "./Strip";

/** The cutting order as one strip: a cell a cut, length is time, gaps are cutter changes. Scrubbing it moves the table to that moment; a cell is dragged to another place in the order. */
export function Tape({
  job,
  setup,
  plan,
  time: moment,
  setTime,
  selected,
  onSelect,
  onMove,
  below,
}: {
  job: Job;
  setup: Setup;
  plan: SheetPlan;
  time: number | null;
  setTime: (t: number | null) => void;
  selected: string | null;
  onSelect: (id: string) => void;
  onMove?: (cut: string, before: string) => void;
  /** What stands beneath the strip, on its scale. */
  below?: (scale: Scale) => ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800),
    [grab, setGrab] = useState<{ cut: number; from: number; at: number } | null>(null);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => setWidth(box.current!.clientWidth));
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  const total = Math.max(plan.seconds, 1),
    time = moment === null ? null : Math.min(moment, total), // an edit may have made the program shorter
    X = (t: number) => LEFT + (t / total) * (width - LEFT - RIGHT);
  const at = (clientX: number) => {
    const r = box.current!.getBoundingClientRect();
    return Math.min(total, Math.max(0, ((clientX - r.left - LEFT) / (width - LEFT - RIGHT)) * total));
  };
  const names = new Map(job.parts.map((p) => [p.id, p.name])),
    outline = new Map(job.parts.map((p) => [p.id, p.contours[0].name])),
    hold = plan.hold,
    byCut = holdByCut(plan);
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
  const now = current && hold ? byCut.least.get(index) : undefined;
  return (
    <section aria-label="Tape: order of cuts" className="border-t-2 border-ink bg-paper">
      <div className="flex items-baseline gap-3 px-3 pt-1 text-small">
        <b className="font-semibold">Order of cuts</b>
        <span className="num">{plan.cuts.length}</span>
        <span className="text-quiet">cuts,</span>
        <span className="num">{clock(total)}</span>
        <span className="min-w-0 truncate text-quiet">
          {current
            ? wordsOf(current, { setup, name: names.get(current.piece.split("#")[0]), held: now })
            : `drag along the strip, or use the arrow keys, to see the table at a moment${onMove ? "; drag a cell to cut it earlier or later" : ""}`}
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
          <Patterns />
          <Ticks {...{ width, total, X }} />
          {hold && <HoldLines width={width} margin={byCut.margin} />}
          {plan.cuts.map((c, i) => (
            <Cell
              key={i}
              cut={c}
              index={i}
              outer={c.frees && c.contour === outline.get(c.piece.split("#")[0])}
              mine={selected === c.piece}
              faint={grab?.cut === i && slot !== null}
              hold={byCut}
              {...{ X, time, onSelect }}
            />
          ))}
          <Loads {...{ plan, setup, X, total }} />
          <Moves {...{ plan, X }} />
          <TrialEnd plan={plan} X={X} />
          <Stops plan={plan} X={X} />
          {slot !== null && <SlotMark {...{ plan, slot, X }} />}
          {time !== null && <Moment {...{ time, X, width }} />}
        </svg>
        <span className="sr-only">deepest cut {deepest} passes</span>
      </div>
      {below?.({ width, total, X })}
    </section>
  );
}

/** A cut in words: whose, with what, in how many passes, how firmly what it loads is held. */
function wordsOf(c: CutCell, of: { setup: Setup; name?: string; held?: number }): string {
  const cutter = of.setup.cutters.find((k) => k.id === c.cutter)?.name;
  return [
    `${of.name} piece ${c.piece.split("#")[1]}: ${c.contour}, ${c.kind}, ${cutter}`,
    `, ${c.passes} pass${c.passes === 1 ? "" : "es"}`,
    c.tabs ? `, ${c.tabs} tabs` : "",
    of.held === undefined ? "" : `; held ${times(of.held)}×`,
  ].join("");
}
