import { bare, useUnit } from "../shared/lengths";
import { type Place } from "./boardPlace";

/** Numbers of the squares, and names of the boards on them. */
export function SquareNumbers({ at, grid }: { at: Place; grid: boolean }) {
  const { others, onGrid, pitch, columns, rows, corner, ox, oy, area, k } = at;
  return (
    <>
      {(grid || onGrid) &&
        Array.from({ length: Math.min(400, columns * rows) }, (_, i) => {
          const [x, y] = corner(i + 1);
          return (
            <text
              key={i}
              x={(x + 6 - ox - area[0]) * k + 2}
              y={(area[3] + oy - y - 6) * k - 2}
              className="num"
              fontSize={Math.min(13, pitch * k * 0.3)}
              fill="#21262a"
            >
              {i + 1}
            </text>
          );
        })}
      {onGrid &&
        others.map((o) => {
          const [cx, cy] = corner(o.square ?? 1);
          return (
            <text
              key={o.id}
              x={(cx + o.width / 2 - ox - area[0]) * k}
              y={(area[3] + oy - cy - o.height / 2) * k + 4}
              textAnchor="middle"
              fontSize={13}
              fontWeight={600}
            >
              {o.name}
            </text>
          );
        })}
    </>
  );
}

/** Readings, the high spot and the low one; ``all`` false: only where Z is touched off. */
export function Heights({ at, all }: { at: Place; all: boolean }) {
  const { unit } = useUnit();
  const { view, area, k } = at;
  const flat = view.flatness;
  return (
    <>
      {flat &&
        all &&
        view.bench.readings.length <= 120 &&
        view.bench.readings.map((r, i) => (
          <text
            key={i}
            x={(r.x - area[0]) * k}
            y={(area[3] - r.y) * k + 4}
            textAnchor="middle"
            fontSize={12}
            className="num"
            fill="#21262a"
            stroke="#fffdf8"
            strokeWidth={3}
            paintOrder="stroke"
          >
            {bare(r.z, unit, unit === "mm" ? 2 : 3)}
          </text>
        ))}
      {flat &&
        (all ? (["high", "low"] as const) : (["high"] as const)).map((what) => {
          const r = flat[what],
            x = (r.x - area[0]) * k,
            y = (area[3] - r.y) * k;
          return (
            <g key={what}>
              <path
                d={what === "high" ? `M${x} ${y - 20}l8 -13h-16z` : `M${x} ${y + 20}l8 13h-16z`}
                fill="#21262a"
              />
              <text
                x={x + 12}
                y={what === "high" ? y - 22 : y + 32}
                fontSize={13}
                fontWeight={600}
                stroke="#fffdf8"
                strokeWidth={3.5}
                paintOrder="stroke"
              >
                {what === "high" ? (all ? "high spot" : "high spot: touch off here") : "low spot"}
              </text>
            </g>
          );
        })}
    </>
  );
}
