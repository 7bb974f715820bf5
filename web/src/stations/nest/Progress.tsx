import type { NestState } from "../../api/model";

/** Material yield over time against what no layout can beat: a glance says whether waiting pays. */
export function Progress({ nest }: { nest: NestState }) {
  const curve = nest.curve ?? [],
    end = Math.max(nest.state === "running" ? (nest.seconds ?? 1) : 0, nest.elapsed ?? 1),
    best = curve.length ? Math.max(...curve.map((c) => c[2])) : 0,
    low = curve.length ? Math.min(...curve.map((c) => c[2])) - 0.02 : 0;
  const limit = nest.limit ?? 1,
    top = Math.max(limit, best),
    X = (t: number) => 4 + (t / end) * 300,
    Y = (u: number) => 66 - ((u - low) / Math.max(top - low, 0.01)) * 50;
  const d =
    curve.map((c, i) => `${i ? `L${X(c[0])} ${Y(curve[i - 1][2])}L` : "M"}${X(c[0])} ${Y(c[2])}`).join("") +
    (curve.length ? `L${X(nest.elapsed ?? 0)} ${Y(curve[curve.length - 1][2])}` : "");
  const last = curve[curve.length - 1];
  return (
    <div className="mt-2 border border-line bg-paper px-2 py-1" role="status">
      <p className="text-small">{words(nest)}</p>
      {last && (
        <svg
          viewBox="0 0 310 72"
          className="w-full"
          role="img"
          aria-label={`Material yield ${(best * 100).toFixed(1)} percent after ${(nest.elapsed ?? 0).toFixed(0)} seconds; no layout can reach ${(limit * 100).toFixed(1)} percent`}
        >
          <path d={`M4 ${Y(limit)}H304`} stroke="#21262a" strokeDasharray="1 3" />
          <text x={4} y={Y(limit) - 3} fontSize={12} fill="#4d5357" className="num">
            no layout above {(limit * 100).toFixed(1)} %
          </text>
          <path d="M4 67H304" stroke="#cdbfa6" />
          <path d={d} fill="none" stroke="#1c4e49" strokeWidth={2} />
          <text
            x={304}
            y={Math.max(Y(best) - 5, Y(limit) + 12)}
            textAnchor="end"
            stroke="#faf6ee"
            strokeWidth={3}
            paintOrder="stroke"
            fontSize={12.5}
            className="num"
          >
            {(best * 100).toFixed(1)} % yield, {last[1]} sheet{last[1] === 1 ? "" : "s"}
          </text>
        </svg>
      )}
    </div>
  );
}

/** How far a search is, in words. */
function words(nest: NestState): string {
  const elapsed = (nest.elapsed ?? 0).toFixed(0);
  if (nest.state === "running") return `searching, ${elapsed} of ${nest.seconds} s`;
  if (nest.state === "waiting") {
    const others = `${nest.ahead} other search${nest.ahead === 1 ? "" : "es"}`;
    return `waiting for ${nest.ahead ? others : "its turn"}`;
  }
  if (nest.state === "accepted")
    return `searched for ${elapsed} s; ${nest.message || "the best that was found is taken"}`;
  return nest.message ?? "";
}
