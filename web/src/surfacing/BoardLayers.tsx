import { type BenchView } from "../api/model";
import { type Place } from "./boardPlace";

/** How what stays uncut and what is kept clear of are hatched. */
export function Hatches() {
  return (
    <defs>
      <pattern id="uncut" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <path d="M0 0V8" stroke="#a92f22" strokeWidth="2.4" />
      </pattern>
      <pattern id="dead" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
        <path d="M0 0V9" stroke="#625d53" strokeWidth="1.4" />
      </pattern>
    </defs>
  );
}

type GroundOf = { at: Place; map: string | null; faint: boolean; grid: boolean };

/** Table, board, heights and squares under the rows. */
export function Ground({ at, map, faint, grid }: GroundOf) {
  const { others, m, b, onGrid, pitch, columns, rows, corner, ox, oy, px } = at;
  const [gx, gy] = corner(1);
  return (
    <>
      {m && (
        <rect
          x={-ox}
          y={-oy}
          width={m.width}
          height={m.height}
          fill="#e2d8c4"
          stroke="#21262a"
          strokeWidth={px(1.2)}
        />
      )}
      {m?.dead_areas.map((d, i) => (
        <rect
          key={i}
          x={d[0] - ox}
          y={d[1] - oy}
          width={d[2] - d[0]}
          height={d[3] - d[1]}
          fill="url(#dead)"
          stroke="#625d53"
          strokeWidth={px(0.8)}
        />
      ))}
      <rect width={b.width} height={b.height} fill="#f0e4c8" />
      {map && (
        <image
          href={map}
          x={0}
          y={0}
          width={b.width}
          height={b.height}
          preserveAspectRatio="none"
          opacity={faint ? 0.55 : 1}
          style={{ imageRendering: "pixelated" }}
        />
      )}
      {onGrid &&
        others.map((o) => {
          const [cx, cy] = corner(o.square ?? 1);
          return (
            <rect
              key={o.id}
              x={cx - ox}
              y={cy - oy}
              width={o.width}
              height={o.height}
              fill="#f0e4c8"
              stroke="#21262a"
              strokeWidth={px(1.4)}
            />
          );
        })}
      {(onGrid || grid) && (
        <g stroke="#21262a" strokeWidth={px(0.6)} opacity={0.7}>
          {Array.from({ length: columns + 1 }, (_, i) => (
            <path key={`X${i}`} d={`M${gx + i * pitch - ox} ${gy - oy}v${rows * pitch}`} />
          ))}
          {Array.from({ length: rows + 1 }, (_, i) => (
            <path key={`Y${i}`} d={`M${gx - ox} ${gy + i * pitch - oy}h${columns * pitch}`} />
          ))}
        </g>
      )}
    </>
  );
}

/** The rows of a pass and where the cutter goes down. */
export function Rows({ runs, px }: { runs: BenchView["layers"][number]["runs"]; px: (v: number) => number }) {
  return (
    <>
      {runs.map((r, i) => (
        <path key={i} d={r.d} fill="none" stroke="#1c4e49" strokeWidth={px(1.1)} />
      ))}
      {runs.slice(0, 60).map((r, i) => (
        <circle
          key={i}
          cx={r.start[0]}
          cy={r.start[1]}
          r={px(r.outside ? 3.6 : 3)}
          fill={r.outside ? "#1c4e49" : "#fffdf8"}
          stroke="#1c4e49"
          strokeWidth={px(1.4)}
        />
      ))}
    </>
  );
}

/** What is kept clear of, what stays uncut, shifts and the zero, over the rows. */
export function Marks({ at }: { at: Place }) {
  const { view, b, px } = at;
  return (
    <>
      {b.dead.map((d, i) => (
        <rect
          key={i}
          x={d.x0}
          y={d.y0}
          width={d.x1 - d.x0}
          height={d.y1 - d.y0}
          fill="url(#dead)"
          stroke="#21262a"
          strokeWidth={px(1)}
        />
      ))}
      {view.uncut.map((u, i) => (
        <polygon
          key={i}
          points={u.map((p) => p.join(",")).join(" ")}
          fill="url(#uncut)"
          stroke="#a92f22"
          strokeWidth={px(1)}
        />
      ))}
      <rect width={b.width} height={b.height} fill="none" stroke="#21262a" strokeWidth={px(2)} />
      {view.shifts.length > 1 &&
        view.shifts.slice(1).map((s) => (
          <g key={s.number} stroke="#a92f22" strokeWidth={px(1.4)} strokeDasharray={`${px(8)} ${px(4)}`}>
            <path d={`M${s.start} ${-px(8)}V${b.height + px(8)}`} />
            <path d={`M${s.start + view.bench.overlap} ${-px(8)}V${b.height + px(8)}`} />
          </g>
        ))}
      <g stroke="#a92f22" strokeWidth={px(1.8)} fill="none">
        <circle r={px(6)} />
        <path d={`M${-px(11)} 0H${px(11)}M0 ${-px(11)}V${px(11)}`} />
      </g>
    </>
  );
}
