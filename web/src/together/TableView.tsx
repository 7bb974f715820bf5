import { useRef } from "react";

import { type TableRun, type XY } from "../api/model";
import { MeasureOver } from "../measuring/MeasureOver";
import { ring } from "../measuring/segments";
import type { Outline } from "../measuring/snap";
import { useRoom } from "../shared/useRoom";

type View = {
  d: TableRun;
  held: string | null;
  setHeld: (id: string | null) => void;
  onSquare: (square: number) => void;
};

const path = (ring: number[][]) => `M${ring.map((p) => p.join(" ")).join("L")}Z`;

const points = (all: number[][]) => ring(all.map((p): XY => [p[0], p[1]]));
/** What can be measured: the table, its sheets and the pieces on them. */
const outlines = (d: TableRun): Outline[] =>
  [
    {
      piece: null,
      name: "table",
      segments: points([
        [0, 0],
        [d.width, 0],
        [d.width, d.height],
        [0, d.height],
      ]),
    },
    ...d.sheets.flatMap((s) => [
      { piece: s.id, name: s.called, segments: points(s.outline) },
      ...s.parts.map((p, i) => ({
        piece: `${s.id}/${i}`,
        name: `piece on ${s.called}`,
        segments: points(p),
      })),
    ]),
  ].filter((o) => o.segments.length);

/** Is the number of a square hidden by a sheet that lies on another? */
const covered = (d: TableRun, n: number, x: number, y: number) =>
  d.sheets.some(
    (s) =>
      s.square !== n &&
      s.width > 0 &&
      x > s.at[0] - 1 &&
      x < s.at[0] + s.width &&
      y > s.at[1] - 1 &&
      y < s.at[1] + s.height,
  ) && !d.sheets.some((s) => s.square === n);

/** The table with its numbered squares and the sheets that lie on them; one that is held goes to the square clicked. */
export function TableView({ d, held, setHeld, onSquare }: View) {
  const drawing = useRef<SVGGElement>(null),
    { box, room } = useRoom(),
    g = d.grid,
    pad = 26;
  const k = Math.max(
    0.01,
    Math.min((room[0] - 2 * pad) / Math.max(d.width, 1), (room[1] - 2 * pad) / Math.max(d.height, 1)),
  );
  const W = d.width * k,
    H = d.height * k,
    px = (v: number) => v / k;
  const squares = g ? Math.min(g.columns * g.rows, 1000) : 0;
  const corner = (n: number) => [
    g!.at[0] + ((n - 1) % g!.columns) * g!.pitch,
    g!.at[1] + Math.floor((n - 1) / g!.columns) * g!.pitch,
  ];
  return (
    <div ref={box} className="relative h-full min-h-0 overflow-hidden">
      {!d.sheets.length && (
        <p className="absolute inset-0 grid place-items-center text-quiet">
          Nothing lies on the table yet: lay a sheet of a job at the right.
        </p>
      )}
      <svg
        className="absolute"
        style={{ left: (room[0] - W) / 2, top: (room[1] - H) / 2 }}
        width={W}
        height={H}
        viewBox={`0 0 ${W} ${H}`}
        role="img"
        data-testid="table-view"
        aria-label={`${d.machine}: ${d.sheets.map((s) => `${s.called} on square ${s.square}`).join("; ") || "nothing on the table"}`}
      >
        <g ref={drawing} transform={`translate(0 ${H}) scale(${k} ${-k})`}>
          <rect width={d.width} height={d.height} fill="#e2d8c4" stroke="#21262a" strokeWidth={px(1.4)} />
          {Array.from({ length: squares }, (_, i) => {
            const [x, y] = corner(i + 1);
            return (
              <rect
                key={i}
                x={x}
                y={y}
                width={g!.pitch}
                height={g!.pitch}
                fill={held ? "#fffdf8" : "transparent"}
                fillOpacity={0.35}
                stroke="#8b8069"
                strokeWidth={px(0.6)}
                className={held ? "cursor-pointer" : ""}
                onClick={() => held && onSquare(i + 1)}
                data-square={i + 1}
              />
            );
          })}
          {d.sheets.map((s) => (
            <g
              key={s.id}
              className="cursor-pointer"
              style={{ pointerEvents: held && held !== s.id ? "none" : "auto" }}
              onClick={() => setHeld(held === s.id ? null : s.id)}
            >
              {s.outline.length > 2 && (
                <path
                  d={path(s.outline)}
                  fill="#f0e4c8"
                  stroke={held === s.id ? "#a92f22" : "#21262a"}
                  strokeWidth={px(held === s.id ? 3 : 1.6)}
                />
              )}
              {s.parts.map((p, i) => (
                <path key={i} d={path(p)} fill="#fffdf8" stroke="#21262a" strokeWidth={px(1)} />
              ))}
            </g>
          ))}
          {g && (
            <g stroke="#a92f22" strokeWidth={px(1.8)} fill="none" transform={`translate(${g.at.join(" ")})`}>
              <circle r={px(6)} />
              <path d={`M${-px(11)} 0H${px(11)}M0 ${-px(11)}V${px(11)}`} />
            </g>
          )}
        </g>
        <g pointerEvents="none">
          {Array.from({ length: squares }, (_, i) => {
            const [x, y] = corner(i + 1);
            return covered(d, i + 1, x, y) ? null : (
              <text
                key={i}
                x={x * k + 4}
                y={H - y * k - 5}
                className="num"
                fontSize={Math.max(10, Math.min(14, g!.pitch * k * 0.2))}
                fill="#21262a"
                stroke="#fffdf8"
                strokeWidth={3}
                paintOrder="stroke"
              >
                {i + 1}
              </text>
            );
          })}
          {d.sheets
            .filter((s) => s.width * k > s.called.length * 6.5) // else its square and the list say it
            .map((s) => (
              <text
                key={s.id}
                x={(s.at[0] + s.width / 2) * k}
                y={H - (s.at[1] + s.height) * k + 17}
                textAnchor="middle"
                fontSize={13}
                fontWeight={600}
                fill="#21262a"
                stroke="#fffdf8"
                strokeWidth={3.5}
                paintOrder="stroke"
              >
                {s.called}
              </text>
            ))}
        </g>
      </svg>
      <MeasureOver drawing={drawing} make={() => outlines(d)} of={[d]} />
    </div>
  );
}
