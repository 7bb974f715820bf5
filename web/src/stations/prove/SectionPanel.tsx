import type { CutSection, XY } from "../../api/model";
import { LengthToken } from "../../shared/Tokens";
import { length, useUnit } from "../../shared/lengths";
import { useSection } from "./asCut";
import { gaps } from "./gaps";

const W = 1000,
  H = 150,
  /** Floors and gaps shorter than this share of the line bear no figure. */
  LEAST = 0.035;

type Props = { line: XY[]; setLine: (l: XY[]) => void; close: () => void };

/** The section along a line that is drawn on the table, its ends typed or clicked. */
export function SectionPanel({ line, setLine, close }: Props) {
  const seen = useSection(line);
  const put = (end: 0 | 1, axis: 0 | 1, v: number) =>
    setLine(line.map((p, i) => (i === end ? (p.map((w, k) => (k === axis ? v : w)) as XY) : p)));
  return (
    <section
      data-over
      aria-label="Section"
      className="absolute inset-x-3 bottom-3 z-10 border border-ink bg-[#fffdf8] px-3 py-2 shadow-md"
    >
      <div className="flex flex-wrap items-baseline gap-x-3 text-small">
        <h3 className="font-semibold">Section</h3>
        {line.length < 2 ? (
          <p role="status">{line.length ? "click its other end" : "click one end of it on the sheet"}</p>
        ) : (
          ([0, 1] as const).map((end) => (
            <span key={end}>
              {end ? "to" : "from"}{" "}
              <LengthToken
                label={`${end ? "end" : "start"} X`}
                mm={line[end][0]}
                onCommit={(v) => put(end, 0, v)}
              />
              ,{" "}
              <LengthToken
                label={`${end ? "end" : "start"} Y`}
                mm={line[end][1]}
                onCommit={(v) => put(end, 1, v)}
              />
            </span>
          ))
        )}
        <button className="key ml-auto !py-0" onClick={close}>
          Close
        </button>
      </div>
      {seen.error && (
        <p role="alert" className="text-stop">
          {seen.error.message}
        </p>
      )}
      {seen.data && line.length === 2 && <Drawn view={seen.data} busy={seen.isFetching} />}
    </section>
  );
}

/** The sheet hatched, its floors with their depth and its gaps with their width; heights larger than widths. */
function Drawn({ view, busy }: { view: CutSection; busy: boolean }) {
  const { unit } = useUnit();
  const under = view.underside,
    low = under * 1.35,
    sx = W / view.length,
    sy = (H - 26) / -low;
  const X = (s: number) => s * sx,
    Y = (z: number) => 22 - Math.max(z, low) * sy;
  const top = view.points
    .map(([s, z], i) => `${i ? "L" : "M"}${X(s).toFixed(1)} ${Y(z).toFixed(1)}`)
    .join("");
  const more = Math.round(sy / sx),
    behind = view.behind ?? [];
  return (
    <figure className={busy ? "opacity-60" : ""} data-testid="cut-section">
      <svg viewBox={`0 0 ${W} ${H}`} className="w-full" role="img" aria-label={said(view, unit)}>
        <defs>
          <clipPath id="sheet-section">
            <path d={`M0 0H${W}V${Y(under)}H0Z`} />
          </clipPath>
          <pattern
            id="section-hatch"
            width="7"
            height="7"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V7" stroke="#7c6a4a" strokeWidth="1.1" />
          </pattern>
        </defs>
        <rect x="0" y={Y(under)} width={W} height={H - Y(under)} fill="#d6cdbe" />
        <path d={`${top}L${W} ${H}L0 ${H}Z`} fill="#d6cdbe" />
        <path d={`${top}L${W} ${H}L0 ${H}Z`} fill="#fffdf8" clipPath="url(#sheet-section)" />
        <path
          d={`${top}L${W} ${H}L0 ${H}Z`}
          fill="url(#section-hatch)"
          stroke="#21262a"
          strokeWidth="1.5"
          clipPath="url(#sheet-section)"
        />
        {behind.length > 1 && (
          <path
            data-testid="behind"
            d={`M${behind.map(([s, z]) => `${X(s).toFixed(1)} ${Y(z).toFixed(1)}`).join("L")}L${W} ${Y(under)}L0 ${Y(under)}Z`}
            fill={view.behind_cut ? "#d6cdbe" : "none"}
            stroke="#21262a"
            strokeWidth="1.2"
            strokeDasharray={view.behind_cut ? undefined : "3 3"}
          />
        )}
        {view.model.map((m, k) => (
          <path
            key={k}
            data-testid="model-line"
            d={m.map(([s, z], i) => `${i ? "L" : "M"}${X(s).toFixed(1)} ${Y(z).toFixed(1)}`).join("")}
            fill="none"
            stroke="#a92f22"
            strokeWidth="1.4"
            strokeDasharray="5 3"
          />
        ))}
        <path d={`M0 ${Y(under)}H${W}`} stroke="#21262a" strokeWidth="1" strokeDasharray="6 4" />
        {gaps(view)
          .filter((g) => g.to - g.from > LEAST * view.length)
          .map((g) => (
            <g key={g.from} textAnchor="middle" className="num" fontSize="13">
              <path
                d={`M${X(g.from)} 18H${X(g.to)}M${X(g.from)} 13V22M${X(g.to)} 13V22`}
                stroke="#1c4e49"
                strokeWidth="1"
              />
              <text x={(X(g.from) + X(g.to)) / 2} y="13" fill="#1c4e49">
                {length(g.to - g.from, unit)}
              </text>
              <text x={(X(g.from) + X(g.to)) / 2} y={Math.min(Y(g.deepest), Y(under)) - 5}>
                {g.deepest <= under + 1e-3 ? "through" : `${length(-g.deepest, unit)} deep`}
              </text>
            </g>
          ))}
      </svg>
      <figcaption className="label">
        {length(view.length, unit)} long; sheet {length(-under, unit)}
        {more > 1 ? `; heights drawn ${more} times larger than widths` : ""}
        {behind.length > 1 &&
          (view.behind_cut
            ? "; from below: cut from the first face"
            : "; dotted from below: what the other face will take")}
        {view.model.length ? "; broken line: the relief as it is to come out" : ""}
      </figcaption>
    </figure>
  );
}

const said = (view: CutSection, unit: "mm" | "in") => {
  const all = gaps(view);
  const list = all
    .slice(0, 12)
    .map(
      (g) =>
        `${length(g.to - g.from, unit)} wide ${g.deepest <= view.underside + 1e-3 ? "through" : `${length(-g.deepest, unit)} deep`} at ${length(g.from, unit)}`,
    );
  return all.length
    ? `Section with ${all.length} cuts: ${list.join("; ")}`
    : "Section: nothing is cut along it";
};
