import type { Turned } from "../api/model";

const WIDE = 120;

/** A sheet before and after its turn, the way the hands go, and the corner that tells the one from the other. */
export function TurnDrawing({ turned }: { turned: Turned }) {
  const k = WIDE / Math.max(turned.width, turned.height),
    w = turned.width * k,
    h = turned.height * k,
    about = turned.turn.axis;
  const gap = 64,
    high = Math.max(h, 44) + 34;
  const y0 = (high - h) / 2,
    back = turned.number === 3,
    up = turned.turn.mark,
    under = over(up, about),
    became = back ? `comes up again at the ${up}` : "comes to lie underneath";
  return (
    <svg
      viewBox={`0 0 ${2 * w + gap + 8} ${high}`}
      className="mt-1 w-full max-w-[20rem]"
      role="img"
      aria-label={`The sheet is turned ${back ? "back" : "over"} about ${about.toUpperCase()}: the corner marked at the ${up} ${became}`}
    >
      <g transform={`translate(4 ${y0})`}>
        <Sheet w={w} h={h} axis={about} back={back} />
        <Mark at={back ? under : up} w={w} h={h} under={back} />
        <Ways w={w} h={h} axis={about} />
      </g>
      <g transform={`translate(${w + 4} ${high / 2})`} stroke="#21262a" fill="none" strokeWidth={1.6}>
        <path d={`M10 0H${gap - 14}M${gap - 20} -5L${gap - 13} 0L${gap - 20} 5`} />
      </g>
      <g transform={`translate(${w + gap + 4} ${y0})`}>
        <Sheet w={w} h={h} axis={about} back={!back} />
        <Mark at={back ? up : under} w={w} h={h} under={!back} />
      </g>
    </svg>
  );
}

const over = (corner: string, axis: "x" | "y") =>
  axis === "x"
    ? corner.replace(/upper|lower/, (v) => (v === "upper" ? "lower" : "upper"))
    : corner.replace(/left|right/, (v) => (v === "left" ? "right" : "left"));

type Size = { w: number; h: number };

const Sheet = ({ w, h, axis, back }: Size & { axis: "x" | "y"; back?: boolean }) => (
  <>
    <rect width={w} height={h} fill={back ? "#e4dcc8" : "#f6f1e2"} stroke="#21262a" strokeWidth={1.2} />
    <path
      d={axis === "x" ? `M-6 ${h / 2}H${w + 6}` : `M${w / 2} -6V${h + 6}`}
      stroke="#1c4e49"
      strokeDasharray="7 3 2 3"
    />
    <text x={w / 2} y={h + 14} fontSize={11} textAnchor="middle">
      {back ? "other face up" : "first face up"}
    </text>
  </>
);

/** A corner of the sheet, filled where the mark is seen, hollow where it lies underneath. */
const Mark = ({ at, w, h, under }: Size & { at: string; under?: boolean }) => {
  const right = at.includes("right"),
    upper = at.includes("upper"),
    x = right ? w : 0,
    y = upper ? 0 : h,
    a = Math.min(14, w / 3, h / 3);
  return (
    <path
      d={`M${x} ${y}h${right ? -a : a}L${x} ${y + (upper ? a : -a)}Z`}
      fill={under ? "none" : "#a92f22"}
      stroke="#a92f22"
      strokeWidth={1.4}
      strokeDasharray={under ? "3 2" : undefined}
    />
  );
};

/** Both hands go over the axis, the edge that was far comes near. */
const Ways = ({ w, h, axis }: Size & { axis: "x" | "y" }) => {
  const r = Math.min(w, h) * 0.3;
  return (
    <g
      transform={`translate(${w / 2} ${h / 2})${axis === "y" ? " rotate(90)" : ""}`}
      stroke="#1c4e49"
      fill="none"
      strokeWidth={1.8}
    >
      <path d={`M0 ${-r}C${r * 1.1} ${-r} ${r * 1.1} ${r} 0 ${r}M7 ${r - 6}L0 ${r}L8 ${r + 5}`} />
    </g>
  );
};
