import type { Part, Piece, XY } from "../api/model";
import { focusBeside } from "../shared/keys";
import { nearestOnRing, toPart, toSheet } from "./collisions";
import { type Grip, useHeld } from "./hands";
import type { Shown } from "./shown";

const HANDLE = { w: 11, h: 6 };
/** Pixels from an edge within which a double click puts a tab on it. */
const NEAR = 24;

export type Tab = { contour: string; index: number; x: number; y: number; angle: number; hand: boolean };
export type OnTabs = (part: string, contour: string, tabs: XY[]) => void;

/** The tabs of a piece in its part's frame: its own, where they were moved clear of its neighbours' cuts. */
export function tabsOf({ setup, parts }: Shown, p: Piece): Tab[] {
  const outline = parts.get(p.part)?.contours[0].name;
  return (setup.contours[p.part] ?? []).flatMap((c) => {
    const own = c.contour === outline && !c.by_hand ? setup.own_tabs[p.id] : undefined;
    return (own ?? c.tabs).map(([x, y, angle], index) => ({
      contour: c.contour,
      index,
      x,
      y,
      angle,
      hand: c.by_hand,
    }));
  });
}
const on = (shown: Shown, p: Piece, contour: string): XY[] =>
  tabsOf(shown, p)
    .filter((t) => t.contour === contour)
    .map((t) => [t.x, t.y]);
export const ringOf = (part: Part, contour: string) =>
  part.rings[part.contours.findIndex((c) => c.name === contour)];

/** A tab where a person points: on the nearest edge of the piece. */
export function addTab(shown: Shown, p: Piece, part: Part, to: XY, onTabs: OnTabs) {
  const best = part.contours
    .map((c, i) => {
      const at = nearestOnRing(to, part.rings[i]);
      return { name: c.name, at, away: Math.hypot(at[0] - to[0], at[1] - to[1]) };
    })
    .sort((a, b) => a.away - b.away)[0];
  if (best && best.away * shown.camera.k < NEAR)
    onTabs(p.part, best.name, [...on(shown, p, best.name), best.at]);
}

type Dragged = { piece: Piece; contour: string; index: number; tabs: XY[] };

/** Tabs on the edges of the pieces; those of the selected piece are dragged, moved by keys and taken away. */
export function TabsLayer({ shown, grip, onTabs }: { shown: Shown; grip: Grip; onTabs?: OnTabs }) {
  const { held, now, put } = useHeld<Dragged>();
  const take = (e: React.PointerEvent, p: Piece, part: Part, t: Tab) => {
    put({ piece: p, contour: t.contour, index: t.index, tabs: on(shown, p, t.contour) });
    grip(e, {
      move: (at) => {
        const d = now.current;
        const to = nearestOnRing(toPart(at, p), ringOf(part, t.contour));
        if (d) put({ ...d, tabs: d.tabs.map((x, i) => (i === t.index ? to : x)) });
      },
      drop: () => {
        if (now.current) onTabs?.(p.part, t.contour, now.current.tabs);
        put(null);
      },
      cancel: () => put(null),
    });
  };
  return shown.pieces.flatMap((p) => {
    const part = shown.parts.get(p.part);
    const mine = shown.selected === p.id;
    return tabsOf(shown, p).map((t) => {
      const at =
        held && held.piece.id === p.id && held.contour === t.contour ? held.tabs[t.index] : undefined;
      const hands =
        mine && part && shown.station === "cuts" && onTabs
          ? {
              ...grabbable(t),
              onPointerDown: (e: React.PointerEvent) => take(e, p, part, t),
              onKeyDown: (e: React.KeyboardEvent) => byKey(e, shown, p, part, t, onTabs),
            }
          : { pointerEvents: "none" as const };
      return (
        <TabMark
          key={`${p.id}/${t.contour}/${t.index}`}
          tab={t}
          piece={p}
          at={shown.px(toSheet(at ?? [t.x, t.y], p))}
          large={mine}
          hands={hands}
        />
      );
    });
  });
}

const grabbable = (t: Tab) => ({
  "data-grab": true,
  "data-tab": `${t.contour}/${t.index}`,
  tabIndex: 0,
  role: "button",
  style: { cursor: "grab" },
  "aria-label": `tab ${t.index + 1} on ${t.contour}; arrow keys move it, Delete takes it away`,
});

function TabMark(props: {
  tab: Tab;
  piece: Piece;
  at: XY;
  large: boolean;
  hands: React.SVGProps<SVGRectElement>;
}) {
  const { tab, piece, at, large, hands } = props;
  const angle = -(piece.mirrored ? 180 - tab.angle : tab.angle) - piece.rotation;
  return (
    <rect
      x={-HANDLE.w / 2}
      y={-HANDLE.h / 2}
      width={HANDLE.w}
      height={HANDLE.h}
      rx={1}
      transform={`translate(${at[0]} ${at[1]}) rotate(${angle}) scale(${large ? 1.35 : 0.8})`}
      fill={tab.hand ? "#1c4e49" : "#fffdf8"}
      stroke="#21262a"
      strokeWidth={1.3}
      {...hands}
    />
  );
}

const ALONG: Record<string, number> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };

/** A tab goes along its edge by the arrow keys, and away with Delete. */
function byKey(e: React.KeyboardEvent, shown: Shown, p: Piece, part: Part, t: Tab, onTabs: OnTabs) {
  const all = on(shown, p, t.contour);
  if (e.key === "Delete" || e.key === "Backspace") {
    e.preventDefault();
    if (t.index === all.length - 1) focusBeside(e.currentTarget, "[data-tab]"); // else the next one takes its place
    onTabs(
      p.part,
      t.contour,
      all.filter((_, i) => i !== t.index),
    );
  }
  const way = ALONG[e.key];
  if (!way) return;
  e.preventDefault();
  const r = (t.angle * Math.PI) / 180,
    step = (e.shiftKey ? 25 : 5) * way,
    to = nearestOnRing([t.x + step * Math.cos(r), t.y + step * Math.sin(r)], ringOf(part, t.contour));
  onTabs(
    p.part,
    t.contour,
    all.map((x, i) => (i === t.index ? to : x)),
  );
}
