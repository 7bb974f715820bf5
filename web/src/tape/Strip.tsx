import { clock, type CutCell, type Setup, type SheetPlan } from "../api/model";
import { gradeFill, gradeOf, HoldPatterns, times } from "../holding/grades";

export const CELLS = { y: 24, h: 26 },
  HOLD = { y: 58, h: 26 },
  HEIGHT = 116;
/** Room beside the strip for its words. */
export const LEFT = 58,
  RIGHT = 18;
/** Height of a hold on the strip: 1 times its load at a quarter, 32 times at the top, in equal steps for equal ratios. */
const level = (r: number) => Math.min(1, Math.max(0.06, 0.25 + (Math.log2(Math.max(r, 0.05)) / 5) * 0.75));

/** The strip to scale: where a moment lies, in pixels. */
export type Scale = { width: number; total: number; X: (t: number) => number };

export const Patterns = () => (
  <defs>
    <pattern id="inside" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
      <rect width="5" height="5" fill="#efe3c8" />
      <path d="M0 0V5" stroke="#8c7a55" strokeWidth="1.6" />
    </pattern>
    <HoldPatterns name="tape" />
  </defs>
);

export function Ticks({ width, total, X }: Scale) {
  const step =
    [5, 10, 30, 60, 120, 300, 600, 1800].find((s) => (s / total) * (width - LEFT - RIGHT) > 62) ?? 3600;
  return (
    <>
      {Array.from({ length: Math.floor(total / step) + 1 }, (_, i) => i * step).map((t) => (
        <g key={t}>
          <path d={`M${X(t)} 16v4`} stroke="#21262a" />
          <text x={X(t)} y={12} fontSize={12} textAnchor="middle" className="num">
            {clock(t)}
          </text>
        </g>
      ))}
      <text x={8} y={41} fontSize={13} fontWeight={600}>
        cuts
      </text>
      <text x={8} y={HOLD.y + 16} fontSize={13} fontWeight={600}>
        hold
      </text>
      <text x={8} y={99} fontSize={13} fontWeight={600}>
        frees
      </text>
    </>
  );
}

/** One times the load, and the house rule's margin. */
export function HoldLines({ width, margin }: { width: number; margin: number }) {
  return (
    <g>
      {[1, margin].map((r) => (
        <g key={r}>
          <path
            d={`M${LEFT} ${HOLD.y + HOLD.h * (1 - level(r))}H${width - RIGHT}`}
            stroke="#21262a"
            strokeWidth={r === 1 ? 1.1 : 0.6}
            strokeDasharray={r === 1 ? undefined : "3 3"}
          />
          {r === 1 && (
            <text
              x={LEFT - 3}
              y={HOLD.y + HOLD.h * (1 - level(r)) + 3.5}
              fontSize={12}
              textAnchor="end"
              className="num"
            >
              1×
            </text>
          )}
        </g>
      ))}
    </g>
  );
}

/** What is known of the hold, by cut: the least of what it loads, what it frees, whether a drop comes free. */
export type HoldByCut = {
  margin: number;
  least: Map<number, number>;
  freed: Map<number, string>;
  loose: Record<string, number>;
  drops: Set<number>;
};
export function holdByCut({ hold }: SheetPlan): HoldByCut {
  const least = new Map<number, number>();
  for (const rows of hold ? [...Object.values(hold.pieces), hold.sheet] : [])
    for (const [k, r] of rows) if (r !== null) least.set(k, Math.min(r, least.get(k) ?? Infinity));
  return {
    margin: hold?.margin ?? 2,
    least,
    freed: new Map(Object.entries(hold?.freed ?? {}).map(([q, k]) => [k, q])),
    loose: hold?.loose ?? {},
    drops: new Set(hold?.marks.filter((m) => m[1] === "drop").map((m) => m[0])),
  };
}

type CellProps = Pick<Scale, "X"> & {
  cut: CutCell;
  index: number;
  outer: boolean;
  mine: boolean;
  time: number | null;
  faint: boolean;
  hold: HoldByCut;
  onSelect: (id: string) => void;
};

/** One cut: how long, in how many passes, how firmly what it loads is held, what it frees. */
export function Cell({ X, cut: c, index: i, outer, mine, time, faint, hold, onSelect }: CellProps) {
  const x = X(c.begins),
    w = Math.max(1, X(c.begins + c.seconds) - x - 0.6);
  return (
    <g opacity={faint ? 0.35 : 1}>
      <rect
        x={x}
        y={CELLS.y}
        width={w}
        height={CELLS.h}
        data-cell={c.name}
        onPointerDown={() => onSelect(c.piece)}
        fill={outer ? (mine ? "#1c4e49" : "#8c8370") : mine ? "#1c4e49" : "url(#inside)"}
        stroke={mine ? "#1c4e49" : "#5f5847"}
        strokeWidth={w > 4 ? 0.7 : 0}
        opacity={time !== null && c.begins + c.seconds > time ? 0.5 : 1}
      />
      {Array.from({ length: c.passes - 1 }, (_, k) =>
        w > 7 ? (
          <path
            key={k}
            d={`M${x} ${CELLS.y + (CELLS.h * (k + 1)) / c.passes}h${w}`}
            stroke="#faf6ee"
            strokeWidth={0.9}
          />
        ) : null,
      )}
      <HeldBar x={x} w={w} ratio={hold.least.get(i)} margin={hold.margin} />
      <FreedMark x={x + w} index={i} hold={hold} />
    </g>
  );
}

function HeldBar({ x, w, ratio: r, margin }: { x: number; w: number; ratio?: number; margin: number }) {
  if (r === undefined) return null;
  return (
    <rect
      x={x}
      y={HOLD.y + HOLD.h * (1 - level(Math.max(r, 1)))}
      width={w}
      height={HOLD.h * level(Math.max(r, 1))}
      fill={gradeFill(gradeOf(r, margin), "tape")}
      stroke={r < margin ? "#21262a" : "none"}
      strokeWidth={0.6}
    >
      <title>{`held ${times(r)} times what this cut asks`}</title>
    </rect>
  );
}

/** A piece comes free here, or is parted but for tabs or a skin; or a drop falls. */
function FreedMark({ x, index, hold }: { x: number; index: number; hold: HoldByCut }) {
  const piece = hold.freed.get(index);
  if (piece !== undefined) {
    const free = hold.loose[piece] === index;
    return (
      <path d={`M${x - 4} 91h8l-4 7z`} fill={free ? "#21262a" : "#fffdf8"} stroke="#21262a" strokeWidth={0.9}>
        <title>{free ? "free" : "parted, but for tabs or a skin"}</title>
      </path>
    );
  }
  if (!hold.drops.has(index)) return null;
  return (
    <circle cx={x} cy={94.5} r={2.3} fill="none" stroke="#21262a" strokeWidth={1}>
      <title>a drop comes free</title>
    </circle>
  );
}

/** When which cutter is loaded. */
export function Loads({ plan, setup, X, total }: Omit<Scale, "width"> & { plan: SheetPlan; setup: Setup }) {
  return (
    <>
      {plan.changes.map(([t, id], i) => {
        const cutter = setup.cutters.find((c) => c.id === id),
          name = cutter?.name ?? id,
          next = plan.changes[i + 1],
          room = X(next ? next[0] : total) - X(t);
        return (
          <g key={`${t}/${id}`}>
            <path d={`M${X(t)} 20V110`} stroke="#21262a" strokeDasharray="1.5 3" />
            <text x={X(t) + 4} y={111} fontSize={12} fill="#625d53">
              {room > (name.length + 5) * 6.2
                ? `load ${name}`
                : room > 26 || !next
                  ? `T${cutter?.number}`
                  : ""}
              <title>load {name}</title>
            </text>
          </g>
        );
      })}
    </>
  );
}

/** When long stock is moved along the table: the gap before the first cut of a position. */
export function Moves({ plan, X }: { plan: SheetPlan; X: Scale["X"] }) {
  return (
    <g data-testid="moves-along">
      {plan.cuts.map((c, i) => {
        const before = plan.cuts[i - 1];
        if (!before || before.position === c.position) return null;
        const from = X(before.begins + before.seconds) + 3,
          to = X(c.begins) - 3;
        return (
          <g key={c.name} stroke="#8a5a00" fill="none">
            <path d={`M${from} 58H${to}M${from + 6} 54L${from} 58L${from + 6} 62`} strokeWidth={1.4} />
            {to - from > 60 && (
              <text
                x={(from + to) / 2}
                y={50}
                fontSize={12}
                textAnchor="middle"
                fill="#8a5a00"
                stroke="none"
                fontWeight={600}
              >
                {to - from > 150 ? `move it to position ${c.position}` : `to ${c.position}`}
              </text>
            )}
            <title>{`the stock is moved to position ${c.position}`}</title>
          </g>
        );
      })}
    </g>
  );
}

export function TrialEnd({ plan, X }: { plan: SheetPlan; X: Scale["X"] }) {
  const trial = plan.cuts.findLast((c) => c.trial);
  if (!trial || plan.cuts.every((c) => c.trial)) return null;
  return (
    <g>
      <path
        d={`M${X(trial.begins + trial.seconds) + 1} 18V104M${X(trial.begins + trial.seconds) + 4} 18V104`}
        stroke="#1c4e49"
        strokeWidth={1.2}
      />
      <text x={X(trial.begins + trial.seconds) + 8} y={104} fontSize={12} fontWeight={600} fill="#1c4e49">
        trial ends
      </text>
    </g>
  );
}

/** Where the program stops for the operator. */
export function Stops({ plan, X }: { plan: SheetPlan; X: Scale["X"] }) {
  return (
    <g data-testid="stops">
      {plan.cuts
        .filter((c) => c.stop)
        .map((c) => (
          <g key={c.name}>
            <title>{`The program stops: ${c.stop}`}</title>
            <path
              d={`M${X(c.begins) - 3} 18h6v${CELLS.y + CELLS.h - 12}h-6z`}
              fill="#fffdf8"
              stroke="#8a5a00"
              strokeWidth={1.6}
            />
            <path d={`M${X(c.begins)} 22v${CELLS.y + CELLS.h - 20}`} stroke="#8a5a00" strokeDasharray="2 2" />
          </g>
        ))}
    </g>
  );
}

/** Where a dragged cell would be let go. */
export function SlotMark({ plan, slot, X }: { plan: SheetPlan; slot: number; X: Scale["X"] }) {
  const c = plan.cuts[Math.min(slot, plan.cuts.length - 1)],
    x = slot < plan.cuts.length ? X(c.begins) : X(c.begins + c.seconds);
  return (
    <path
      d={`M${x} ${CELLS.y - 6}v${CELLS.h + 12}M${x - 5} ${CELLS.y - 6}h10M${x - 5} ${CELLS.y + CELLS.h + 6}h10`}
      stroke="#1c4e49"
      strokeWidth={2.4}
    />
  );
}

/** The moment that one stands at. */
export function Moment({ time, X, width }: Omit<Scale, "total"> & { time: number }) {
  return (
    <g>
      <path d={`M${X(time)} 18V112`} stroke="#a92f22" strokeWidth={2} />
      <rect x={Math.min(Math.max(X(time) - 25, 0), width - 50)} y={0} width={50} height={17} fill="#a92f22" />
      <text
        x={Math.min(Math.max(X(time), 25), width - 25)}
        y={12.5}
        fontSize={12}
        fill="#fff"
        textAnchor="middle"
        className="num"
      >
        {clock(time)}
      </text>
    </g>
  );
}
