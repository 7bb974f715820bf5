import type { Piece, XY } from "../api/model";
import { bare, useUnit } from "../shared/lengths";
import { Bubble } from "../table/marks";
import type { Shown } from "../table/shown";
import { gapBetween, placed, segments } from "./segments";
import { angleBetween, measured, type Outline, type Snap } from "./snap";

export type Measure = { from: Snap; to: Snap };

/** What can be measured on the sheet: every contour where it lies, and the sheet's own edge. */
export function outlinesOf({ pieces, parts, stock }: Shown): Outline[] {
  const { width: w, height: h, outline } = stock;
  const ring: XY[] =
    outline.length > 2
      ? outline
      : [
          [0, 0],
          [w, 0],
          [w, h],
          [0, h],
        ];
  const edge: Outline = {
    piece: null,
    name: "the sheet",
    segments: ring.map((a, i) => ({ a, b: ring[(i + 1) % ring.length] })),
  };
  const drawn = pieces.flatMap((p: Piece) => {
    const part = parts.get(p.part);
    return (part?.contours ?? []).map((c): Outline => ({
      piece: p.id,
      name: part!.name,
      segments: segments(c.d).map((s) => placed(s, p)),
    }));
  });
  return [edge, ...drawn];
}

const WORD = { corner: "corner", middle: "middle", centre: "centre", edge: "edge", free: "" };

/** Measures on the drawing: those that were taken, the one that is begun, and what the pointer snaps to. */
export function MeasureLayer({
  px,
  taken,
  begun,
  now,
  outlines,
  width,
}: {
  /** A place of the drawing, mm, in pixels. */
  px: (p: XY) => XY;
  taken: Measure[];
  begun: Snap | null;
  now: Snap | null;
  outlines: Outline[];
  width: number;
}) {
  const { unit } = useUnit();
  const mm = (v: number) => `${bare(v, unit, unit === "mm" ? 3 : 4)} ${unit}`;
  const r = now?.segment?.arc?.r;
  return (
    <g pointerEvents="none" data-testid="measures">
      {taken.map((m, i) => (
        <Taken key={i} m={m} px={px} says={said(m, outlines, mm)} width={width} />
      ))}
      {begun && now && (
        <Taken
          m={{ from: begun, to: now }}
          px={px}
          says={said({ from: begun, to: now }, outlines, mm)}
          width={width}
        />
      )}
      {now && <SnapMark snap={now} at={px(now.at)} />}
      {now && !begun && now.kind !== "free" && (
        <Bubble
          at={[px(now.at)[0] + 14, px(now.at)[1] - 14]}
          text={[WORD[now.kind], `${mm(now.at[0])}, ${mm(now.at[1])}`, r ? `radius ${mm(r)}` : ""]
            .filter(Boolean)
            .join(" · ")}
          bad={false}
          width={width}
        />
      )}
    </g>
  );
}

/** A measure in words: distance, its parts, the angle; between two pieces their gap too. */
function said({ from, to }: Measure, outlines: Outline[], mm: (v: number) => string): string {
  const m = measured(from.at, to.at),
    between = angleBetween(from.segment, to.segment);
  const gap = gapOf(from, to, outlines);
  return [
    mm(m.mm),
    `X ${mm(m.dx)}`,
    `Y ${mm(m.dy)}`,
    `${Number(m.angle.toFixed(2))}°`,
    between === null ? "" : `edges ${Number(between.toFixed(2))}° apart`,
    gap === null ? "" : `gap ${mm(gap)}`,
  ]
    .filter(Boolean)
    .join(" · ");
}

function gapOf(from: Snap, to: Snap, outlines: Outline[]): number | null {
  if (!from.outline || !to.outline || from.outline.piece === to.outline.piece) return null;
  const of = (o: Outline) => outlines.filter((x) => x.piece === o.piece).flatMap((x) => x.segments);
  return gapBetween(of(from.outline), of(to.outline)).mm;
}

function Taken({ m, px, says, width }: { m: Measure; px: (p: XY) => XY; says: string; width: number }) {
  const [x0, y0] = px(m.from.at),
    [x1, y1] = px(m.to.at);
  return (
    <>
      <path d={`M${x0} ${y0}L${x1} ${y1}`} stroke="#fffdf8" strokeWidth={4.5} />
      <path d={`M${x0} ${y0}L${x1} ${y1}`} stroke="#1c4e49" strokeWidth={2} />
      <circle cx={x0} cy={y0} r={3.4} fill="#1c4e49" />
      <circle cx={x1} cy={y1} r={3.4} fill="#1c4e49" />
      <Bubble at={[(x0 + x1) / 2 + 8, (y0 + y1) / 2 - 10]} text={says} bad={false} width={width} />
    </>
  );
}

/** What it snaps to, told by shape: a square at a corner, a triangle at a middle, a ring at a centre, a bar on an edge. */
function SnapMark({ snap, at: [x, y] }: { snap: Snap; at: XY }) {
  const line = { fill: "none", stroke: "#a8660f", strokeWidth: 2 };
  if (snap.kind === "corner") return <rect x={x - 5} y={y - 5} width={10} height={10} {...line} />;
  if (snap.kind === "middle") return <path d={`M${x - 6} ${y + 4}h12l-6 -10z`} {...line} />;
  if (snap.kind === "centre") return <circle cx={x} cy={y} r={5.5} {...line} />;
  if (snap.kind === "edge") return <path d={`M${x - 6} ${y}h12`} {...line} />;
  return <path d={`M${x - 5} ${y}h10M${x} ${y - 5}v10`} {...line} />;
}
