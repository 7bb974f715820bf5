import type { ReckoningMark } from "../api/model";

const WIDE = 380,
  HIGH = 230,
  EDGE = 34;
const LOOK: Record<ReckoningMark["role"], string> = {
  stock: "fill-board stroke-ink",
  "cut away": "fill-paper stroke-ink",
  cutter: "fill-none stroke-accent [stroke-dasharray:5_3] [stroke-width:1.6]",
  path: "fill-none stroke-ink",
  thing: "fill-bench stroke-ink",
  measure: "stroke-accent",
  word: "",
};

/** The drawing of a reckoning, to scale. */
export function Figure({ marks, title }: { marks: ReckoningMark[]; title: string }) {
  const all = marks.flatMap((m) => m.points);
  if (!all.length) return null;
  const xs = all.map((p) => p[0]),
    ys = all.map((p) => p[1]);
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const scale = Math.min(
    (WIDE - 2 * EDGE) / Math.max(x1 - x0, 1e-6),
    (HIGH - 2 * EDGE) / Math.max(y1 - y0, 1e-6),
  );
  const at = ([x, y]: number[]): [number, number] => [
    WIDE / 2 + (x - (x0 + x1) / 2) * scale,
    HIGH / 2 - (y - (y0 + y1) / 2) * scale,
  ];
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="block w-full max-w-[560px] border border-line bg-white"
      role="img"
      aria-label={`${title}, drawn to scale`}
    >
      {marks.map((m, i) => (
        <Drawn key={i} mark={m} at={at} />
      ))}
    </svg>
  );
}

function Drawn({ mark, at }: { mark: ReckoningMark; at: (p: number[]) => [number, number] }) {
  const p = mark.points.map(at);
  if (mark.role === "word") return <Words at={p[0]} text={mark.text} />;
  if (mark.role === "measure") return <Measure a={p[0]} b={p[p.length - 1]} text={mark.text} />;
  const d = `M${p.map(([x, y]) => `${x.toFixed(2)} ${y.toFixed(2)}`).join("L")}${mark.role === "path" ? "" : "Z"}`;
  return <path d={d} className={LOOK[mark.role]} strokeLinejoin="round" />;
}

/** Words never leave the drawing: half of them stands on each side of their place, as far as there is room. */
function Words({ at, text }: { at: [number, number]; text: string }) {
  const half = text.length * 3.3;
  const x = Math.max(half + 4, Math.min(WIDE - half - 4, at[0]));
  return (
    <text
      x={x}
      y={Math.max(13, Math.min(HIGH - 5, at[1]))}
      textAnchor="middle"
      fontSize="12.5"
      className="haloed num"
    >
      {text}
    </text>
  );
}

function Measure({ a, b, text }: { a: [number, number]; b: [number, number]; text: string }) {
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1,
    [ux, uy] = [(b[0] - a[0]) / long, (b[1] - a[1]) / long];
  const tick = ([x, y]: [number, number]) => `M${x - uy * 5} ${y + ux * 5}L${x + uy * 5} ${y - ux * 5}`;
  const upright = Math.abs(uy) > Math.abs(ux);
  return (
    <g className="stroke-accent" strokeWidth="1.3">
      <path d={`M${a[0]} ${a[1]}L${b[0]} ${b[1]}${tick(a)}${tick(b)}`} />
      <g className="stroke-none">
        <Words
          at={
            upright
              ? [(a[0] + b[0]) / 2 + 8 + text.length * 3.3, (a[1] + b[1]) / 2 + 4]
              : [(a[0] + b[0]) / 2, Math.min(a[1], b[1]) - 6]
          }
          text={text}
        />
      </g>
    </g>
  );
}
