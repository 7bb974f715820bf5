import type { XY } from "../api/model";
import type { KerfSheet } from "./useKerf";

const INK = "#21262a",
  CUT = "#a92f22",
  LINE = "#1c4e49";

/** The ways of the head on a sheet: kerfs, leads, pierces, the hops between them, the slats below, and what does not lie still. At a moment of the tape what is cut by then is red. */
export function KerfLayer({
  sheet,
  k,
  time,
  hops,
}: {
  sheet: KerfSheet;
  k: number;
  time: number | null;
  hops: boolean;
}) {
  const now = time ?? Infinity;
  return (
    <g pointerEvents="none" data-testid="kerfs">
      <SlatsLayer sheet={sheet} k={k} />
      {hops &&
        sheet.cuts.map(
          (c, i) =>
            c.came.length > 0 && (
              <polyline
                key={i}
                points={points(c.came)}
                fill="none"
                stroke={INK}
                strokeOpacity={c.down ? 0.8 : 0.28}
                strokeWidth={(c.down ? 1.2 : 0.8) / k}
                strokeDasharray={c.down ? `${2 / k} ${3 / k}` : `${9 / k} ${6 / k}`}
              />
            ),
        )}
      {sheet.cuts.map((c, i) => {
        const done = time !== null && c.begins + c.seconds <= now,
          under = time !== null && !done && c.begins <= now;
        const colour = done || under ? CUT : LINE;
        return (
          <g key={i}>
            <polyline
              points={points(c.way)}
              fill="none"
              stroke={colour}
              strokeWidth={(under ? 3 : c.common ? 2.2 : 1.4) / k}
              strokeDasharray={c.tabbed ? `${12 / k} ${2 / k}` : undefined}
              strokeLinejoin="round"
            />
            <Pierce at={c.pierce} k={k} colour={colour} spot={c.spot} />
          </g>
        );
      })}
      {sheet.misfits.map((m, i) => (
        <MisfitMark key={i} of={m} k={k} />
      ))}
      {sheet.rests
        .filter((r) => r.piece && r.seconds <= now && (r.state === "tips" || r.state === "falls"))
        .map((r, i) => (
          <RestMark key={i} at={r.at} k={k} falls={r.state === "falls"} />
        ))}
    </g>
  );
}

/** The bars that a sheet lies on. */
export const SlatsLayer = ({ sheet, k }: { sheet: KerfSheet; k: number }) => (
  <g
    stroke="#7a7058"
    strokeOpacity={0.5}
    strokeWidth={2.2 / k}
    strokeDasharray={`${1.5 / k} ${4 / k}`}
    pointerEvents="none"
  >
    {sheet.slats.map(([a, b], i) => (
      <line key={i} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />
    ))}
  </g>
);

const points = (way: XY[]) => way.map((p) => p.join(",")).join(" ");

/** A pierce is a small full disc; one for the drill has a cross in it. */
function Pierce({ at: [x, y], k, colour, spot }: { at: XY; k: number; colour: string; spot: boolean }) {
  const r = 2.6 / k;
  return spot ? (
    <path
      d={`M${x - 1.6 * r} ${y}H${x + 1.6 * r}M${x} ${y - 1.6 * r}V${y + 1.6 * r}`}
      stroke={colour}
      strokeWidth={1.4 / k}
      fill="none"
    />
  ) : (
    <circle cx={x} cy={y} r={r} fill={colour} />
  );
}

/** A lead as it was asked for, where it finds no room so: dashed to a cross; the line is drawn dashed too where it is left out. */
function MisfitMark({ of, k }: { of: KerfSheet["misfits"][number]; k: number }) {
  const [x, y] = of.lead[0],
    r = 5 / k;
  return (
    <g
      fill="none"
      stroke={CUT}
      strokeWidth={1.6 / k}
      strokeDasharray={`${5 / k} ${4 / k}`}
      data-testid="misfit"
    >
      <title>{of.name}: the lead as asked for</title>
      <polyline points={points(of.lead)} />
      {of.line.length > 0 && <polyline points={points(of.line)} />}
      <path
        d={`M${x - r} ${y - r}L${x + r} ${y + r}M${x - r} ${y + r}L${x + r} ${y - r}`}
        strokeDasharray="none"
      />
    </g>
  );
}

/** What tips stands on a corner, what falls points down. */
function RestMark({ at: [x, y], k, falls }: { at: XY; k: number; falls: boolean }) {
  const s = 7 / k;
  return (
    <path
      d={
        falls
          ? `M${x - s} ${y + s * 0.7}H${x + s}L${x} ${y - s}Z`
          : `M${x - s} ${y}L${x} ${y - s}L${x + s} ${y}L${x} ${y + s}Z`
      }
      fill="#fffdf8"
      stroke="#8a5a00"
      strokeWidth={2 / k}
    >
      <title>{falls ? "falls between the slats" : "tips on the slats"}</title>
    </path>
  );
}
