import { bare, type Unit } from "../shared/lengths";
import { type Camera, RULER } from "./camera";

/** Steps of a ruler, mm: round figures of the shop's unit. */
const STEPS = {
  mm: [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000],
  in: [0.125, 0.25, 0.5, 1, 2, 6, 12, 24, 48].map((v) => v * 25.4),
};

/** Where a ruler has its marks, mm, so far apart that their figures have room. */
export function ticks(end: number, k: number, unit: Unit): number[] {
  const step = STEPS[unit].find((s) => s * k > 46) ?? STEPS[unit][STEPS[unit].length - 1];
  return Array.from({ length: Math.floor(end / step + 1e-9) + 1 }, (_, i) => i * step);
}

type Props = { camera: Camera; size: [number, number]; unit: Unit; x: number[]; y: number[] };

/** Rulers along the left and lower edge of the window, in table coordinates. */
export function Rulers({ camera, size: [width, height], unit, x, y }: Props) {
  const along = x.map((v) => ({ v, X: camera.x + v * camera.k })),
    up = y.map((v) => ({ v, Y: camera.y - v * camera.k }));
  return (
    <g className="num" fontSize={12} fill="#21262a" pointerEvents="none">
      <rect x={0} y={height - RULER + 8} width={width} height={RULER} fill="#ece4d4" />
      <rect x={0} y={0} width={RULER + 4} height={height} fill="#ece4d4" />
      {along
        .filter(({ X }) => X > RULER + 4 && X < width - 8)
        .map(({ v, X }) => (
          <g key={v}>
            <path d={`M${X} ${height - RULER + 8}v5`} stroke="#21262a" />
            <text x={X} y={height - 6} textAnchor="middle">
              {bare(v, unit, 2)}
            </text>
          </g>
        ))}
      {up
        .filter(({ Y }) => Y < height - RULER && Y > 8)
        .map(({ v, Y }) => (
          <g key={v}>
            <path d={`M${RULER + 4} ${Y}h-5`} stroke="#21262a" />
            <text x={RULER - 2} y={Y + 4} textAnchor="end">
              {bare(v, unit, 2)}
            </text>
          </g>
        ))}
    </g>
  );
}
