import { useLayoutEffect, useRef, useState } from "react";

import { clock } from "../api/model";
import { useJobView } from "../job/view";
import { useKerfSheet } from "./useKerf";

const LEFT = 12,
  RIGHT = 12,
  HIGH = 46;

/** The order of a sheet's cuts on a kerf table as one strip: a cell a cut, its length is time; outlines stand higher than holes. Scrubbing it moves the table to that moment. */
export function KerfTape() {
  const { time: moment, setTime, select, selected } = useJobView();
  const { sheet, earlier } = useKerfSheet();
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  const there = !!sheet?.cuts.length;
  useLayoutEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(() => setWidth(box.current?.clientWidth ?? 800));
    watch.observe(box.current);
    return () => watch.disconnect();
  }, [there]);
  if (!sheet?.cuts.length) return <span />;
  const total = Math.max(sheet.seconds, 1),
    time = moment === null ? null : Math.min(moment, total), // an edit may have made the program shorter
    X = (t: number) => LEFT + (t / total) * (width - LEFT - RIGHT);
  const at = (clientX: number) => {
    const r = box.current!.getBoundingClientRect();
    return Math.min(total, Math.max(0, ((clientX - r.left - LEFT) / (width - LEFT - RIGHT)) * total));
  };
  const current = time === null ? null : (sheet.cuts.findLast((c) => c.begins <= time) ?? null);
  const hop = (way: 1 | -1) => {
    const t = time ?? 0,
      next =
        way > 0
          ? sheet.cuts.find((c) => c.begins > t + 0.01)
          : sheet.cuts.findLast((c) => c.begins < t - 0.01);
    setTime(next ? next.begins : way > 0 ? total : 0);
  };
  return (
    <section aria-label="Tape: order of cuts" aria-busy={earlier} className="border-t-2 border-ink bg-paper">
      <div className="flex items-baseline gap-3 px-3 pt-1 text-small">
        <b className="font-semibold">Order of cuts</b>
        <span className="num">{sheet.cuts.filter((c) => !c.prepares).length}</span>
        <span className="text-quiet">cuts, about</span>
        <span className="num">{clock(total)}</span>
        <span className="min-w-0 truncate text-quiet">
          {earlier
            ? "working out the order anew ..."
            : current
              ? `${current.name}${current.spot ? ", pierced for the drill" : ""}${current.down ? ", come to with the head down" : ""}`
              : "drag along the strip, or use the arrow keys, to see the table at a moment"}
        </span>
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
        aria-valuetext={clock(time ?? 0)}
        className="relative cursor-ew-resize touch-none select-none"
        style={{ height: HIGH }}
        data-testid="tape"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setTime(at(e.clientX));
        }}
        onPointerMove={(e) => e.buttons & 1 && setTime(at(e.clientX))}
        onKeyDown={(e) => {
          if (e.key === "ArrowRight" || e.key === "ArrowLeft") {
            e.preventDefault();
            hop(e.key === "ArrowRight" ? 1 : -1);
          }
          if (e.key === "Home") setTime(0);
          if (e.key === "End") setTime(total);
          if (e.key === "Escape") setTime(null);
        }}
      >
        <svg width={width} height={HIGH} className="block">
          {sheet.cuts.map((c, i) => {
            const x = X(c.begins),
              w = Math.max(1, X(c.begins + c.seconds) - x - 0.4),
              h = c.inside ? 14 : 26;
            const mine = !!selected && c.pieces.includes(selected);
            return (
              <rect
                key={i}
                x={x}
                y={34 - h}
                width={w}
                height={h}
                fill={mine ? "#1c4e49" : c.inside ? "#d9cfb8" : "#b9ad90"}
                stroke={c.common ? "#21262a" : "none"}
                onDoubleClick={() => c.pieces[0] && select(c.pieces[0])}
              />
            );
          })}
          {sheet.rests
            .filter((r) => r.piece && r.state !== "lies")
            .map((r, i) => (
              <path
                key={i}
                d={`M${X(r.seconds) - 4} 37H${X(r.seconds) + 4}L${X(r.seconds)} 44Z`}
                fill="#8a5a00"
              >
                <title>{`${r.name} ${r.state}`}</title>
              </path>
            ))}
          {time !== null && (
            <line x1={X(time)} x2={X(time)} y1={2} y2={HIGH} stroke="#a92f22" strokeWidth={2} />
          )}
        </svg>
      </div>
    </section>
  );
}
