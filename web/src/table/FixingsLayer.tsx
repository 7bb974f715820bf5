import { type Fixing, type Screw, type Setup, type XY } from "../api/model";
import { focusBeside } from "../shared/keys";
import { bare, useUnit } from "../shared/lengths";
import { ARROWS, type Grip, useHeld } from "./hands";
import type { Shown } from "./shown";

type Thing = { id: string; x: number; y: number };
type Shifted = { id: string; by: XY };
/** What a handle does: drawn where it is dragged, with the properties that make it one. */
type Handles = {
  place: <T extends Thing>(t: T) => T;
  of: (t: Thing, what: string, screw: boolean) => React.SVGProps<SVGGElement>;
};

/** Screws and fixings are dragged, moved with the arrow keys and taken away at Cuts & hold. */
export function useFixingHandles(
  { setup, station, camera }: Shown,
  grip: Grip,
  at: (e: React.PointerEvent) => XY,
  onScrews?: (s: Screw[]) => void,
  onFixings?: (f: Fixing[]) => void,
): Handles {
  const { unit } = useUnit();
  const { held, now, put } = useHeld<Shifted>();
  const change = (screw: boolean, all: <T extends Thing>(ts: T[]) => T[]) =>
    screw ? onScrews?.(all(setup.screws)) : onFixings?.(all(setup.fixings));
  const shift = (id: string, screw: boolean, by: XY) =>
    change(screw, (ts) => ts.map((t) => (t.id === id ? moved(t, by) : t)));
  const place = <T extends Thing>(t: T): T =>
    held?.id === t.id ? { ...t, x: t.x + held.by[0], y: t.y + held.by[1] } : t;
  const of = (t: Thing, what: string, screw: boolean): React.SVGProps<SVGGElement> => {
    if (station !== "cuts" || !onScrews) return { pointerEvents: "none" };
    const take = (e: React.PointerEvent) => {
      const from = at(e);
      put({ id: t.id, by: [0, 0] });
      grip(e, {
        move: (to) => put({ id: t.id, by: [to[0] - from[0], to[1] - from[1]] }),
        drop: () => {
          const by = now.current?.by;
          put(null);
          if (by && Math.hypot(...by) * camera.k > 2) shift(t.id, screw, by);
        },
        cancel: () => put(null),
      });
    };
    const keys = (e: React.KeyboardEvent) => {
      const way = ARROWS[e.key],
        step = e.shiftKey ? 50 : 5;
      if (way || e.key === "Delete") e.preventDefault();
      if (way) shift(t.id, screw, [way[0] * step, way[1] * step]);
      if (e.key === "Delete") focusBeside(e.currentTarget, "[data-fixing]");
      if (e.key === "Delete") change(screw, (ts) => ts.filter((o) => o.id !== t.id));
    };
    const grab = { "data-grab": true, "data-fixing": t.id };
    return {
      ...grab,
      tabIndex: 0,
      role: "button",
      style: { cursor: "grab" },
      "aria-label": `${what} at ${bare(t.x, unit, 0)}, ${bare(t.y, unit, 0)}; arrow keys move it`,
      onPointerDown: take,
      onKeyDown: keys,
    };
  };
  return { place, of };
}

const moved = <T extends Thing>(t: T, [dx, dy]: XY): T => ({
  ...t,
  x: Math.round((t.x + dx) * 10) / 10,
  y: Math.round((t.y + dy) * 10) / 10,
});

const UNDER = ["cover", "fixture board", "pod", "tape"],
  OVER = ["clamp", "cam", "pin"];
const FILL: Record<string, string> = { cover: "url(#fixing-cover)", tape: "rgba(196,123,15,.25)" };
const DASH: Record<string, string> = { pod: "5 2", tape: "2 2" };

/** What lies under the sheet: covers, boards, pods, tape. */
export function UnderLayer({ setup, handles }: { setup: Setup; handles: Handles }) {
  return setup.fixings
    .filter((f) => UNDER.includes(f.kind))
    .map((f) => {
      const { x, y } = handles.place(f);
      return (
        <g key={f.id} {...handles.of(f, f.kind, false)}>
          <rect
            x={x - f.width / 2}
            y={y - f.height / 2}
            width={f.width}
            height={f.height}
            fill={FILL[f.kind] ?? "rgba(28,78,73,.18)"}
            stroke="#21262a"
            strokeWidth={1}
            strokeDasharray={DASH[f.kind]}
            vectorEffect="non-scaling-stroke"
          />
          <title>{f.kind}</title>
        </g>
      );
    });
}

/** Clamps, cams and pins. */
export function OverLayer({ setup, handles, k }: { setup: Setup; handles: Handles; k: number }) {
  return setup.fixings
    .filter((f) => OVER.includes(f.kind))
    .map((f) => {
      const hands = handles.of(f, f.kind, false);
      return f.kind === "pin" ? (
        <PinMark key={f.id} pin={handles.place(f)} k={k} hands={hands} />
      ) : (
        <ClampMark key={f.id} clamp={handles.place(f)} hands={hands} />
      );
    });
}

type Hands = React.SVGProps<SVGGElement>;

const PinMark = ({ pin: { x, y, width }, k, hands }: { pin: Fixing; k: number; hands: Hands }) => (
  <g {...hands}>
    <circle cx={x} cy={y} r={Math.max(width / 2, 4 / k)} fill="#21262a" />
  </g>
);

function ClampMark({ clamp: { kind, x, y, width: w, height: h }, hands }: { clamp: Fixing; hands: Hands }) {
  const crossed = `M${x - w / 2} ${y - h / 2}l${w} ${h}m0 ${-h}l${-w} ${h}`;
  return (
    <g {...hands}>
      <rect
        x={x - w / 2}
        y={y - h / 2}
        width={w}
        height={h}
        fill="#fffdf8"
        stroke="#21262a"
        strokeWidth={2}
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={kind === "clamp" ? crossed : `M${x - w / 2} ${y}h${w}`}
        stroke="#21262a"
        strokeWidth={1.2}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}

/** Screws and nails of this sheet. */
export function ScrewsLayer({ shown, handles }: { shown: Shown; handles: Handles }) {
  const { setup, stock, copy, camera } = shown;
  return setup.screws
    .filter((s) => !s.sheet || (s.sheet === stock.id && s.sheet_copy === copy))
    .map((s) => {
      const r = Math.max(s.head / 2, 3.5 / camera.k),
        { x, y } = handles.place(s);
      return (
        <g key={s.id} {...handles.of(s, s.kind, true)}>
          <circle
            cx={x}
            cy={y}
            r={r}
            fill="#fff"
            stroke="#21262a"
            strokeWidth={1.8}
            strokeDasharray={s.kind === "nail" ? "2 1.5" : undefined}
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={`M${x - r * 0.6} ${y}h${r * 1.2}`}
            stroke="#21262a"
            strokeWidth={1.4}
            vectorEffect="non-scaling-stroke"
            pointerEvents="none"
          />
        </g>
      );
    });
}
