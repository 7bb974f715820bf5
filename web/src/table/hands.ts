import { useCallback, useEffect, useMemo, useRef, useState, type RefObject } from "react";

import type { XY } from "../api/model";
import { type Camera, zoomed } from "./camera";

/** Something that is held: it follows the hand, and is let go or laid back. Places in mm on the sheet. */
export type Grab = {
  move: (at: XY, e: React.PointerEvent) => void;
  drop: () => void;
  cancel: () => void;
};
export type Grip = (e: React.PointerEvent, grab: Grab) => void;

/** What is being dragged: drawn as it is, and at hand for whoever lets go. */
export function useHeld<T>() {
  const [held, set] = useState<T | null>(null);
  const now = useRef<T | null>(null);
  const put = useCallback((v: T | null) => {
    now.current = v;
    set(v);
  }, []);
  return useMemo(() => ({ held, now, put }), [held, put]);
}

/** Pixels that a hand trembles by without moving the table. */
const SLACK = 4;

type Hands = {
  box: RefObject<HTMLDivElement | null>;
  camera: Camera;
  keep: (c: Camera) => void;
  at: (e: { clientX: number; clientY: number }) => XY;
};

/** One finger drags what it took hold of, or the table; two bring it nearer and turn it away. */
export function useHands({ box, camera, keep, at }: Hands) {
  const held = useRef<Grab | null>(null),
    fingers = useRef(new Map<number, XY>()),
    pan = useRef<{ from: XY; camera: Camera; moved: boolean } | null>(null),
    last = useRef(camera);
  useEffect(() => {
    last.current = camera;
  }, [camera]);
  const grip: Grip = useCallback((e, grab) => {
    e.stopPropagation();
    (e.target as Element).closest("svg")!.setPointerCapture?.(e.pointerId);
    fingers.current.set(e.pointerId, [e.clientX, e.clientY]);
    held.current = grab;
  }, []);
  const letGo = () => {
    held.current?.cancel();
    held.current = null;
    pan.current = null;
    fingers.current.clear();
  };
  const pinch = (e: React.PointerEvent) => {
    const other = [...fingers.current].find(([id]) => id !== e.pointerId)![1],
      was = fingers.current.get(e.pointerId)!;
    const away = (p: XY) => Math.hypot(p[0] - other[0], p[1] - other[1]);
    const r = box.current!.getBoundingClientRect(),
      mid: XY = [(e.clientX + other[0]) / 2 - r.left, (e.clientY + other[1]) / 2 - r.top];
    const near = zoomed(last.current, away([e.clientX, e.clientY]) / Math.max(1, away(was)), mid);
    last.current = {
      ...near,
      x: near.x + (e.clientX - was[0]) / 2,
      y: near.y + (e.clientY - was[1]) / 2,
    };
    keep(last.current);
  };
  return {
    grip,
    onPointerDown: (e: React.PointerEvent) => {
      fingers.current.set(e.pointerId, [e.clientX, e.clientY]);
      if (fingers.current.size > 1) {
        held.current?.cancel();
        held.current = pan.current = null;
      } else pan.current = { from: [e.clientX, e.clientY], camera, moved: false };
    },
    onPointerMove: (e: React.PointerEvent) => {
      if (fingers.current.size > 1 && fingers.current.has(e.pointerId)) pinch(e);
      else if (held.current) held.current.move(at(e), e);
      else if (pan.current) {
        const { from, camera: c } = pan.current;
        if (!pan.current.moved && Math.hypot(e.clientX - from[0], e.clientY - from[1]) < SLACK) return;
        pan.current.moved = true;
        keep({ ...c, x: c.x + e.clientX - from[0], y: c.y + e.clientY - from[1] });
      }
      if (fingers.current.has(e.pointerId)) fingers.current.set(e.pointerId, [e.clientX, e.clientY]);
    },
    onPointerUp: (e: React.PointerEvent) => {
      fingers.current.delete(e.pointerId);
      held.current?.drop();
      held.current = null;
      pan.current = null;
    },
    onPointerCancel: letGo,
    onPointerLeave: letGo,
  };
}

/** What an arrow key says: a step to the right and up. */
export const ARROWS: Record<string, XY> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
