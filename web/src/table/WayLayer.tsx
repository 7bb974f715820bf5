import type { CutMoment } from "../api/model";

type Motion = CutMoment["motion"];
/** Line of each kind of motion, in pixels: dash, width. Slopes dash and dot, plunges are dotted, fast moves dashed wide. */
export const WAYS: Record<Motion, { dash?: string; width: number; word: string }> = {
  level: { width: 1.8, word: "cutting" },
  slope: { dash: "7 2.5 1.5 2.5", width: 1.8, word: "on a slope" },
  down: { dash: "1.5 3", width: 2.6, word: "straight down" },
  fast: { dash: "11 6", width: 1.1, word: "fast" },
  stands: { width: 1.8, word: "standing" },
};
const INK = "#a92f22";

/** The cutter at the moment on the tape, and its way just before and after, each kind of motion with a line of its own. */
export function WayLayer({ moment: m, k }: { moment: CutMoment; k: number }) {
  const [x, y, z] = m.at;
  const r = Math.max(m.diameter / 2, 3 / k);
  return (
    <g pointerEvents="none" data-testid="way" data-motion={m.motion}>
      {m.legs.map((leg, i) => (
        <polyline
          key={i}
          points={leg.points.map((p) => p.join(",")).join(" ")}
          fill="none"
          stroke={leg.done ? INK : "#21262a"}
          strokeOpacity={leg.done ? 0.9 : 0.75}
          strokeWidth={WAYS[leg.motion].width}
          strokeDasharray={WAYS[leg.motion].dash}
          vectorEffect="non-scaling-stroke"
          strokeLinejoin="round"
        />
      ))}
      <circle
        cx={x}
        cy={y}
        r={r}
        fill={z < 0 ? INK : "none"}
        fillOpacity={0.18}
        stroke={INK}
        strokeWidth={1.6}
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={`M${x - 1.6 * r} ${y}H${x + 1.6 * r}M${x} ${y - 1.6 * r}V${y + 1.6 * r}`}
        stroke={INK}
        strokeWidth={0.9}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}
