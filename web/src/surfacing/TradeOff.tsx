import { clock, type BenchView, type StepOver } from "../api/model";
import { Reckon } from "../reckonings/anywhere";
import { bare, useUnit } from "../shared/lengths";
import { percent } from "./tab";

/** Quick, smooth, and quick with a smooth last pass, over all passes. */
function WholeJob({ view }: { view: BenchView }) {
  const { unit } = useUnit();
  return (
    <p className="text-small" data-testid="whole-job">
      {view.bench.how.passes > 1 ? `All ${view.bench.how.passes} passes: ` : "The pass: "}
      {view.ways.map((w, i) => (
        <span key={i}>
          {i > 0 && "; "}
          {percent(w.share)}
          {w.fine > 0 && ` and a last pass at ${percent(w.fine)}`} <b className="num">{clock(w.seconds)}</b>,
          ridges {bare(w.ridge, unit, unit === "mm" ? 3 : 4)},{" "}
          {w.ridge <= view.bench.ridge_limit ? "not felt" : "felt"}
        </span>
      ))}
      .
    </p>
  );
}

/** Time against ridge height, a point a step-over, with the line that is not felt. */
export function TradeOff({ view, onPick }: { view: BenchView; onPick: (share: number) => void }) {
  const { unit } = useUnit();
  const all = view.choices,
    now = view.bench.how.step_over,
    limit = view.bench.ridge_limit;
  const W = 520,
    H = 210,
    L = 54,
    B = 34,
    most = Math.max(...all.map((c) => c.seconds)) * 1.06,
    top = Math.max(limit * 1.4, ...all.map((c) => c.ridge)) * 1.08;
  const X = (s: number) => L + (s / most) * (W - L - 14),
    Y = (r: number) => H - B - (r / top) * (H - B - 12);
  const ticks = (v: number, n: number) => Array.from({ length: n }, (_, i) => ((i + 1) / n) * v);
  return (
    <section
      className="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] gap-3 overflow-hidden border-t-2 border-ink bg-paper px-3 py-2"
      aria-label="Step-over against time and ridges"
    >
      <figure className="min-w-0">
        <figcaption className="text-small">
          <b className="font-semibold">What a finer step-over costs</b>{" "}
          <span className="label">
            one pass, spindle {view.bench.tilt_across}° across and {view.bench.tilt_along}° along the rows
          </span>{" "}
          <Reckon name="surfacing-rows" given={{ share: `${100 * now}` }}>
            reckon rows
          </Reckon>
        </figcaption>
        <svg
          viewBox={`0 0 ${W} ${H}`}
          className="h-[204px] w-full"
          role="img"
          aria-label={`Trade-off: ${all.map((c) => `${percent(c.share)} takes ${clock(c.seconds)} and leaves ${c.ridge.toFixed(3)} mm`).join("; ")}`}
          data-testid="trade-off"
        >
          <rect x={L} y={Y(limit)} width={W - L - 14} height={H - B - Y(limit)} fill="#d5e3de" />
          <path d={`M${L} ${Y(limit)}H${W - 14}`} stroke="#1c4e49" strokeDasharray="6 4" />
          <text x={W - 16} y={Y(limit) - 4} textAnchor="end" fontSize="12" fill="#1c4e49">
            not felt below {bare(limit, unit, unit === "mm" ? 3 : 4)}
          </text>
          {ticks(most / 1.06, 4).map((s) => (
            <g key={s}>
              <path d={`M${X(s)} ${H - B}v4`} stroke="#21262a" />
              <text x={X(s)} y={H - B + 16} fontSize="11.5" textAnchor="middle" className="num">
                {clock(s)}
              </text>
            </g>
          ))}
          {ticks(top / 1.08, 3).map((r) => (
            <g key={r}>
              <path d={`M${L - 4} ${Y(r)}h4`} stroke="#21262a" />
              <text x={L - 7} y={Y(r) + 4} fontSize="11.5" textAnchor="end" className="num">
                {bare(r, unit, unit === "mm" ? 3 : 4)}
              </text>
            </g>
          ))}
          <path d={`M${L} 8V${H - B}H${W - 10}`} fill="none" stroke="#21262a" strokeWidth="1.4" />
          <text x={W - 12} y={H - 4} fontSize="12" textAnchor="end">
            time a pass
          </text>
          <text x={L + 4} y={14} fontSize="12">
            ridge, {unit}
          </text>
          <polyline
            points={all.map((c) => `${X(c.seconds)},${Y(c.ridge)}`).join(" ")}
            fill="none"
            stroke="#a99c83"
            strokeWidth="1.5"
          />
          {all.map((c) => (
            <g key={c.share} className="cursor-pointer" onClick={() => onPick(c.share)}>
              {c.share === view.worth ? (
                <rect
                  x={X(c.seconds) - 6}
                  y={Y(c.ridge) - 6}
                  width="12"
                  height="12"
                  transform={`rotate(45 ${X(c.seconds)} ${Y(c.ridge)})`}
                  fill="#fffdf8"
                  stroke="#1c4e49"
                  strokeWidth="2"
                />
              ) : null}
              <circle
                cx={X(c.seconds)}
                cy={Y(c.ridge)}
                r={Math.abs(c.share - now) < 1e-6 ? 6 : 3.8}
                fill={Math.abs(c.share - now) < 1e-6 ? "#a92f22" : "#21262a"}
              />
              <text
                x={X(c.seconds) + 7}
                y={Y(c.ridge) - 6}
                fontSize="11.5"
                className="num"
                fontWeight={Math.abs(c.share - now) < 1e-6 ? 600 : 400}
              >
                {percent(c.share)}
              </text>
            </g>
          ))}
        </svg>
        <WholeJob view={view} />
      </figure>
      <div className="min-h-0 overflow-auto">
        <table className="w-full text-small">
          <thead>
            <tr className="label text-right">
              <th className="text-left font-normal">step-over</th>
              <th className="font-normal">rows</th>
              <th className="font-normal">apart</th>
              <th className="font-normal">time</th>
              <th className="font-normal">ridge</th>
            </tr>
          </thead>
          <tbody>
            {all.map((c: StepOver) => (
              <tr
                key={c.share}
                className={`num cursor-pointer text-right hover:bg-accent-soft ${Math.abs(c.share - now) < 1e-6 ? "bg-accent-soft font-medium" : ""}`}
                onClick={() => onPick(c.share)}
              >
                <td className="text-left">
                  <button className="underline decoration-dotted" aria-label={`Take ${percent(c.share)}`}>
                    {percent(c.share)}
                  </button>
                  {c.share === view.worth ? (
                    <span className="font-sans text-fine text-accent"> quickest unfelt</span>
                  ) : Math.abs(c.share - now) < 1e-6 ? (
                    <span className="font-sans text-fine"> taken</span>
                  ) : (
                    ""
                  )}
                </td>
                <td>{c.rows}</td>
                <td>{bare(c.spacing, unit, unit === "mm" ? 1 : 2)}</td>
                <td>{clock(c.seconds)}</td>
                <td>{bare(c.ridge, unit, unit === "mm" ? 3 : 4)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
