import { useLayoutEffect, useRef, useState } from "react";

import { clock, type Job, type Setup, type SheetPlan } from "./model";

/** The cutting order as one strip: a cell a cut, length is time, gaps are cutter changes. Scrubbing it moves the table to that moment. */
export function Tape({ job, setup, plan, time, setTime, selected, onSelect }: {
  job: Job; setup: Setup; plan: SheetPlan; time: number | null; setTime: (t: number | null) => void; selected: string | null; onSelect: (id: string) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() => setWidth(box.current!.clientWidth));
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  const left = 58, right = 18, total = Math.max(plan.seconds, 1), X = (t: number) => left + (t / total) * (width - left - right);
  const at = (clientX: number) => { const r = box.current!.getBoundingClientRect(); return Math.min(total, Math.max(0, ((clientX - r.left - left) / (width - left - right)) * total)); };
  const step = [5, 10, 30, 60, 120, 300, 600, 1800].find((s) => (s / total) * (width - left - right) > 62) ?? 3600;
  const names = new Map(job.parts.map((p) => [p.id, p.name])), outline = new Map(job.parts.map((p) => [p.id, p.contours[0].name]));
  const firstFree = new Map<string, number>(); // the cut at which a part is first cut through all round
  plan.cuts.forEach((c, i) => { if (c.frees && c.contour === outline.get(c.piece.split("#")[0]) && !c.inside) firstFree.has(c.piece) || firstFree.set(c.piece, i); });
  const deepest = Math.max(1, ...plan.cuts.map((c) => c.passes));
  const current = time === null ? null : plan.cuts.findLast((c) => c.begins <= time) ?? null;
  const hop = (way: 1 | -1) => {
    const t = time ?? 0, next = way > 0 ? plan.cuts.find((c) => c.begins > t + 0.01) : plan.cuts.findLast((c) => c.begins < t - 0.01);
    setTime(next ? next.begins : way > 0 ? total : 0);
  };
  return (
    <section aria-label="Tape: order of cuts" className="border-t-2 border-ink bg-paper">
      <div className="flex items-baseline gap-3 px-3 pt-1 text-[13.5px]">
        <b className="font-semibold">Order of cuts</b>
        <span className="num">{plan.cuts.length}</span><span className="text-quiet">cuts,</span><span className="num">{clock(total)}</span>
        <span className="min-w-0 truncate text-quiet">{current ? `${names.get(current.piece.split("#")[0])} piece ${current.piece.split("#")[1]}: ${current.contour}, ${current.kind}, ${setup.cutters.find((c) => c.id === current.cutter)?.name}, ${current.passes} pass${current.passes === 1 ? "" : "es"}${current.tabs ? `, ${current.tabs} tabs` : ""}` : "drag along the strip, or use the arrow keys, to see the table at a moment"}</span>
        {time !== null && <button className="key ml-auto !py-0" onClick={() => setTime(null)}>Whole plan</button>}
      </div>
      <div ref={box} role="slider" tabIndex={0} aria-label="Moment in the program" aria-valuemin={0} aria-valuemax={Math.round(total)} aria-valuenow={Math.round(time ?? 0)} aria-valuetext={clock(time ?? 0)}
        className="relative h-[92px] cursor-ew-resize touch-none select-none" data-testid="tape"
        onPointerDown={(e) => { e.currentTarget.setPointerCapture(e.pointerId); setTime(at(e.clientX)); }}
        onPointerMove={(e) => { if (e.buttons & 1) setTime(at(e.clientX)); }}
        onKeyDown={(e) => { if (e.key === "ArrowRight") { e.preventDefault(); hop(1); } if (e.key === "ArrowLeft") { e.preventDefault(); hop(-1); } if (e.key === "Home") setTime(0); if (e.key === "End") setTime(total); if (e.key === "Escape") setTime(null); }}>
        <svg width={width} height={92} className="block">
          <defs>
            <pattern id="inside" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="5" height="5" fill="#efe3c8" /><path d="M0 0V5" stroke="#8c7a55" strokeWidth="1.6" /></pattern>
          </defs>
          {Array.from({ length: Math.floor(total / step) + 1 }, (_, i) => i * step).map((t) => (
            <g key={t}><path d={`M${X(t)} 16v4`} stroke="#21262a" /><text x={X(t)} y={12} fontSize={11} textAnchor="middle" className="num">{clock(t)}</text></g>
          ))}
          <text x={8} y={40} fontSize={13} fontWeight={600}>cuts</text><text x={8} y={66} fontSize={13} fontWeight={600}>frees</text>
          {plan.cuts.map((c, i) => {
            const x = X(c.begins), w = Math.max(1, X(c.begins + c.seconds) - x - 0.6), frees = firstFree.get(c.piece) === i, outer = c.frees && c.contour === outline.get(c.piece.split("#")[0]), mine = selected === c.piece;
            return (
              <g key={i} onPointerDown={() => onSelect(c.piece)}>
                <rect x={x} y={24} width={w} height={26} fill={outer ? (mine ? "#1c4e49" : "#8c8370") : mine ? "#1c4e49" : "url(#inside)"} stroke={mine ? "#1c4e49" : "#5f5847"} strokeWidth={w > 4 ? 0.7 : 0} opacity={time !== null && c.begins + c.seconds > time ? 0.5 : 1} />
                {Array.from({ length: c.passes - 1 }, (_, k) => w > 7 ? <path key={k} d={`M${x} ${24 + (26 * (k + 1)) / c.passes}h${w}`} stroke="#faf6ee" strokeWidth={0.9} /> : null)}
                {frees && <path d={`M${x + w - 4} 58h8l-4 7z`} fill={c.tabs ? "#fffdf8" : "#21262a"} stroke="#21262a" strokeWidth={0.9}><title>{c.tabs ? "cut through but for its tabs" : "free"}</title></path>}
              </g>
            );
          })}
          {plan.changes.map(([t, id], i) => {
            const cutter = setup.cutters.find((c) => c.id === id), name = cutter?.name ?? id, next = plan.changes[i + 1], room = X(next ? next[0] : total) - X(t);
            return (
              <g key={`${t}/${id}`}><path d={`M${X(t)} 20V82`} stroke="#21262a" strokeDasharray="1.5 3" />
                <text x={X(t) + 4} y={84} fontSize={12} fill="#625d53">{room > (name.length + 5) * 6.2 ? `load ${name}` : room > 26 || !next ? `T${cutter?.number}` : ""}<title>load {name}</title></text></g>
            );
          })}
          {time !== null && <g><path d={`M${X(time)} 18V90`} stroke="#a92f22" strokeWidth={2} /><rect x={Math.min(Math.max(X(time) - 25, 0), width - 50)} y={0} width={50} height={17} fill="#a92f22" /><text x={Math.min(Math.max(X(time), 25), width - 25)} y={12.5} fontSize={12} fill="#fff" textAnchor="middle" className="num">{clock(time)}</text></g>}
        </svg>
        <span className="sr-only">deepest cut {deepest} passes</span>
      </div>
    </section>
  );
}
