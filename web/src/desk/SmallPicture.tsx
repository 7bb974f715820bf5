import type { DeskJob } from "../api/model";

type Drawn = NonNullable<DeskJob["card"]>["picture"];
const d = (outline: number[][]) => `M${outline.map((p) => p.join(" ")).join("L")}Z`;

/** A job drawn small: its first sheet, its parts, or its board. */
export function SmallPicture({ of, kind }: { of?: Drawn; kind: DeskJob["kind"] }) {
  if (!of)
    return (
      <svg viewBox="0 0 240 120" className="h-24 w-36 shrink-0" aria-hidden>
        <rect x="3" y="3" width="234" height="114" fill="none" stroke="#8f8367" strokeDasharray="6 5" />
      </svg>
    );
  return (
    <svg
      viewBox={`-3 -3 ${of.width + 6} ${of.height + 6}`}
      className="h-24 w-36 shrink-0"
      preserveAspectRatio="xMidYMid meet"
      aria-hidden
    >
      <g transform={`translate(0 ${of.height}) scale(1 -1)`} strokeLinejoin="round">
        <path
          d={of.ground.map(d).join("")}
          fill={kind === "surface" ? "#e2d8c4" : "#eedcb6"}
          stroke="#21262a"
          strokeWidth="2"
        />
        <path
          d={of.pieces.map(d).join("")}
          fill="#fbf7ef"
          fillRule="evenodd"
          stroke="#1c4e49"
          strokeWidth="1.4"
        />
      </g>
    </svg>
  );
}
