import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";

import {
  placeOf,
  type Fixing,
  type Job,
  type Part,
  type Piece,
  type Setup,
  type Screw,
  type SheetPlan,
  type Station,
  type XY,
} from "../api/model";
import { gradeOf, GRADES, gradeFill, HoldPatterns, ratioAt, times } from "../holding/HoldBench";
import { bare, useUnit } from "../shared/lengths";
import {
  neighbours,
  nearestOnRing,
  obstaclesOf,
  snapped,
  solid,
  toPart,
  toSheet,
  trouble,
  type Trouble,
} from "./collisions";

type Props = {
  job: Job;
  setup: Setup;
  sheet: string;
  copy: number;
  station: Station;
  selected: string | null;
  onSelect: (id: string | null) => void;
  time: number | null;
  preview: Piece[] | null;
  sketch?: XY[];
  onSketch?: (p: XY) => void;
  onMove?: (piece: Piece) => void;
  onTabs?: (part: string, contour: string, tabs: XY[]) => void;
  onStart?: (part: string, contour: string, start: XY) => void;
  onScrews?: (s: Screw[]) => void;
  onFixings?: (f: Fixing[]) => void;
};
type Camera = { k: number; x: number; y: number };
const RULER = 30;
const HANDLE = { w: 11, h: 6 };
/** Pixels within which a dragged piece goes into contact by itself; Alt held down leaves it free. */
const SNAP = 14;

/** The machine's table to scale, seen from where the operator stands: canvas for what is only looked at, SVG for what is grabbed. */
export function TableView({
  job,
  setup,
  sheet,
  copy,
  station,
  selected,
  onSelect,
  time,
  preview,
  sketch,
  onSketch,
  onMove,
  onTabs,
  onStart,
  onScrews,
  onFixings,
}: Props) {
  const { unit } = useUnit();
  const box = useRef<HTMLDivElement>(null),
    canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<XY>([0, 0]);
  const [camera, setCamera] = useState<Camera | null>(null);
  const [drag, setDrag] = useState<{ piece: Piece; from: XY; at: XY; free: boolean } | null>(null);
  const [pan, setPan] = useState<{ from: XY; camera: Camera } | null>(null);
  const [tabDrag, setTabDrag] = useState<{ piece: Piece; contour: string; index: number; tabs: XY[] } | null>(
    null,
  );
  const [startDrag, setStartDrag] = useState<{ piece: Piece; contour: string; at: XY } | null>(null);
  const [stuff, setStuff] = useState<{ id: string; screw: boolean; dx: number; dy: number; from: XY } | null>(
    null,
  );
  const [hover, setHover] = useState<XY | null>(null);
  const stock = setup.stock.find((s) => s.id === sheet) ?? setup.stock[0];
  const machine = setup.machine;
  const parts = useMemo(() => new Map(job.parts.map((p) => [p.id, p])), [job.parts]);

  useLayoutEffect(() => {
    const el = box.current!;
    const watch = new ResizeObserver(() => setSize([el.clientWidth, el.clientHeight]));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const fit = useCallback(
    (what: "table" | "sheet"): Camera => {
      const [x0, y0, w, h] =
        what === "table" || !stock
          ? [0, 0, machine.width, machine.height]
          : [setup.sheet_at[0], setup.sheet_at[1], stock.width, stock.height];
      const k = Math.min((size[0] - RULER - 34) / w, (size[1] - RULER - 30) / h);
      return {
        k,
        x: RULER + 8 + (size[0] - RULER - 22 - w * k) / 2 - x0 * k,
        y: 10 + (size[1] - RULER - 20 - h * k) / 2 + (y0 + h) * k,
      };
    },
    [size, machine.width, machine.height, stock?.width, stock?.height, setup.sheet_at],
  );
  useEffect(() => {
    if (size[0] > 0) setCamera(fit("table"));
  }, [fit, size]);
  const cam = camera ?? { k: 0.3, x: 40, y: 400 };
  const [sx, sy] = setup.sheet_at;

  const pieces = useMemo(
    () => (preview ?? setup.pieces).filter((p) => p.sheet === stock?.id && p.sheet_copy === copy),
    [preview, setup.pieces, stock?.id, copy],
  );
  const plan: SheetPlan | undefined = setup.sheets.find((s) => s.sheet === stock?.id && s.copy_no === copy);
  const free = useMemo(() => {
    // pieces whose outline has been cut through by the moment on the tape
    if (time === null || !plan) return new Set<string>();
    const names = new Map(job.parts.map((p) => [p.id, p.contours[0].name]));
    return new Set(
      plan.cuts
        .filter(
          (c) => c.frees && c.contour === names.get(c.piece.split("#")[0]) && c.begins + c.seconds <= time,
        )
        .map((c) => c.piece),
    );
  }, [time, plan, job.parts]);

  // -- canvas: table, grid, zones, sheet with its grain, toolpaths
  useEffect(() => {
    const el = canvas.current;
    if (!el || !camera || !stock) return;
    const dpr = window.devicePixelRatio || 1;
    el.width = size[0] * dpr;
    el.height = size[1] * dpr;
    const g = el.getContext("2d")!;
    const world = () => g.setTransform(dpr * cam.k, 0, 0, -dpr * cam.k, dpr * cam.x, dpr * cam.y);
    const px = 1 / cam.k;
    g.setTransform(dpr, 0, 0, dpr, 0, 0);
    g.clearRect(0, 0, size[0], size[1]);
    world();
    g.fillStyle = "#dcd1bb";
    g.fillRect(0, 0, machine.width, machine.height);
    for (const z of machine.zones) {
      const [x0, y0, x1, y1] = z.rect,
        on = setup.zones_on.includes(z.id);
      g.fillStyle = on ? "#cfdcd8" : "#d8ccb5";
      g.fillRect(x0 + 3, y0 + 3, x1 - x0 - 6, y1 - y0 - 6);
      g.strokeStyle = on ? "#8aa69f" : "#b9ab90";
      g.lineWidth = px;
      g.setLineDash(on ? [] : [5 * px, 4 * px]);
      g.strokeRect(x0 + 3, y0 + 3, x1 - x0 - 6, y1 - y0 - 6);
    }
    g.setLineDash([]);
    g.lineWidth = px * 0.5;
    g.strokeStyle = "rgba(90,80,60,.25)";
    g.beginPath();
    for (let x = 0; x <= machine.width; x += 100) {
      g.moveTo(x, 0);
      g.lineTo(x, machine.height);
    }
    for (let y = 0; y <= machine.height; y += 100) {
      g.moveTo(0, y);
      g.lineTo(machine.width, y);
    }
    g.stroke();
    for (const [x0, y0, x1, y1] of machine.dead_areas) {
      g.save();
      g.beginPath();
      g.rect(x0, y0, x1 - x0, y1 - y0);
      g.clip();
      g.fillStyle = "rgba(120,105,80,.28)";
      g.fillRect(x0, y0, x1 - x0, y1 - y0);
      g.strokeStyle = "rgba(60,50,35,.55)";
      g.lineWidth = px;
      g.beginPath();
      for (let t = x0 + y0 - (y1 - y0); t < x1 + y1; t += 9 * px) {
        g.moveTo(t, y0);
        g.lineTo(t + (y1 - y0), y1);
      }
      g.stroke();
      g.restore();
    }
    g.strokeStyle = "#21262a";
    g.lineWidth = px * 1.2;
    g.strokeRect(0, 0, machine.width, machine.height);
    // the sheet, told apart by a quiet texture
    g.translate(sx, sy);
    const family = setup.material.family;
    const edge = () => {
      g.beginPath();
      if (stock.outline.length > 2) {
        stock.outline.forEach(([x, y], i) => (i ? g.lineTo(x, y) : g.moveTo(x, y)));
        g.closePath();
      } else g.rect(0, 0, stock.width, stock.height);
    };
    g.fillStyle = family === "wood" ? "#eedcb6" : family === "plastic" ? "#e4ecf0" : "#d9dbdc";
    edge();
    g.fill();
    g.save();
    edge();
    g.clip();
    g.lineWidth = px * 0.8;
    if (stock.grain !== null) {
      g.strokeStyle = "rgba(160,120,60,.30)";
      g.beginPath();
      const along = stock.grain === 0 ? stock.width : stock.height,
        across = stock.grain === 0 ? stock.height : stock.width;
      for (let v = 6 * px; v < across; v += 9 * px) {
        const wobble = 2.2 * px * Math.sin(v * 0.37);
        for (let u = 0; u <= along + 60 * px; u += 60 * px) {
          const w = v + wobble * Math.sin(u / (70 * px) + v * 0.11);
          const [x, y] = stock.grain === 0 ? [u, w] : [w, u];
          if (u === 0) g.moveTo(x, y);
          else g.lineTo(x, y);
        }
      }
      g.stroke();
    } else if (family === "plastic") {
      g.fillStyle = "rgba(70,110,130,.22)";
      for (let x = 8 * px; x < stock.width; x += 16 * px)
        for (let y = 8 * px; y < stock.height; y += 16 * px) g.fillRect(x, y, px, px);
    } else {
      g.strokeStyle = "rgba(60,70,80,.16)";
      g.beginPath();
      for (let t = -stock.height; t < stock.width; t += 7 * px) {
        g.moveTo(t, 0);
        g.lineTo(t + stock.height, stock.height);
      }
      g.stroke();
    }
    g.restore();
    g.strokeStyle = "#21262a";
    g.lineWidth = 1.6 * px;
    edge();
    g.stroke();
    for (const f of stock.flaws) {
      g.save();
      g.beginPath();
      g.rect(f.x, f.y, f.width, f.height);
      g.clip();
      g.fillStyle = "rgba(110,60,30,.30)";
      g.fillRect(f.x, f.y, f.width, f.height);
      g.strokeStyle = "#5a3216";
      g.lineWidth = px * 1.3;
      g.beginPath();
      for (let t = -f.height; t < f.width; t += 7 * px) {
        g.moveTo(f.x + t, f.y);
        g.lineTo(f.x + t + f.height, f.y + f.height);
        g.moveTo(f.x + t, f.y + f.height);
        g.lineTo(f.x + t + f.height, f.y);
      }
      g.stroke();
      g.restore();
      g.lineWidth = px;
      g.strokeStyle = "#5a3216";
      g.strokeRect(f.x, f.y, f.width, f.height);
    }
    if ((station === "nest" || station === "stock") && stock.outline.length < 3) {
      g.setLineDash([3 * px, 4 * px]);
      g.lineWidth = px;
      g.strokeStyle = "rgba(33,38,42,.5)";
      g.strokeRect(
        stock.margin,
        stock.margin,
        stock.width - 2 * stock.margin,
        stock.height - 2 * stock.margin,
      );
      g.setLineDash([]);
    }
    if ((station === "cuts" || station === "prove") && plan && !preview) {
      const paths = setup.paths[stock.id] ?? {},
        byId = new Map(pieces.map((p) => [p.id, p]));
      for (const cut of plan.cuts) {
        const p = byId.get(cut.piece),
          found =
            p &&
            paths[p.part + (p.mirrored ? "!" : "")]?.filter(
              (c) => c.contour === cut.contour && c.cutter === cut.cutter && c.operation === cut.operation,
            );
        if (!p || !found) continue;
        const done = time === null || cut.begins + cut.seconds <= time,
          now = time !== null && !done && cut.begins <= time;
        g.save();
        g.translate(p.x, p.y);
        g.rotate((p.rotation * Math.PI) / 180);
        const fine = cut.kind !== "profile"; // what does not go through is drawn finer
        g.strokeStyle = now ? "#a92f22" : fine ? "#6b5a3a" : "#21262a";
        g.lineWidth = px * (now ? (fine ? 1.8 : 3) : fine ? 0.7 : done ? 1.1 : 0.8);
        g.setLineDash(done || now ? [] : [3 * px, 3 * px]);
        for (const c of found) g.stroke(new Path2D(c.d));
        g.restore();
      }
    }
  }, [
    size,
    camera,
    setup,
    stock,
    station,
    plan,
    pieces,
    time,
    preview,
    machine,
    sx,
    sy,
    cam.k,
    cam.x,
    cam.y,
  ]);

  // -- hands
  const at = (e: { clientX: number; clientY: number }): XY => {
    const r = box.current!.getBoundingClientRect();
    return [(e.clientX - r.left - cam.x) / cam.k - sx, (cam.y - (e.clientY - r.top)) / cam.k - sy];
  };
  const loose: Piece | null = drag
    ? {
        ...drag.piece,
        x: drag.piece.x + drag.at[0] - drag.from[0],
        y: drag.piece.y + drag.at[1] - drag.from[1],
      }
    : null;
  const heldId = drag?.piece.id;
  const around = useMemo(
    () =>
      heldId
        ? neighbours(
            pieces.filter((p) => p.id !== heldId),
            parts,
          )
        : [],
    [heldId, pieces, parts],
  );
  const obstacles = useMemo(
    () => (stock ? obstaclesOf(stock, setup.screws, setup.kerf + 3) : []),
    [stock, setup.screws, setup.kerf],
  );
  const { held, contact, heldTrouble } = useMemo(() => {
    if (!loose || !stock) return { held: null, contact: false, heldTrouble: null as Trouble };
    const began = performance.now(),
      part = parts.get(loose.part)!;
    const snap = drag!.free
      ? null
      : snapped(part, loose, around, obstacles, stock, setup.spacing, SNAP / cam.k);
    const at = snap ?? loose,
      answer = {
        held: at,
        contact: !!snap,
        heldTrouble: trouble(solid(part, at), around, obstacles, stock, setup.spacing),
      };
    performance.measure("venzo-drag", { start: began });
    return answer;
  }, [loose?.x, loose?.y, drag?.free, around, obstacles, stock, setup.spacing, cam.k]);
  const movable = station === "nest" && !!onMove && !preview;

  const keys = (e: React.KeyboardEvent, p: Piece) => {
    if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      onSelect(p.id);
      return;
    }
    if (!movable || e.ctrlKey || e.metaKey || e.altKey) return;
    const step = e.shiftKey ? 10 : 1,
      part = parts.get(p.part)!;
    const nudge: Record<string, XY> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    if (nudge[e.key]) {
      e.preventDefault();
      onMove!({ ...p, x: p.x + nudge[e.key][0], y: p.y + nudge[e.key][1] });
    }
    if ((e.key === "m" || e.key === "M") && part.mirror && !p.locked) onMove!(mirroredPiece(p, part));
    if (e.key === "t" || e.key === "T")
      onMove!(turned(p, part, nextTurn(part, p.rotation, e.shiftKey ? -1 : 1)));
  };
  const wheel = (e: React.WheelEvent) => {
    const r = box.current!.getBoundingClientRect(),
      mx = e.clientX - r.left,
      my = e.clientY - r.top,
      f = Math.exp(-e.deltaY * 0.0015);
    const k = Math.min(40, Math.max(0.02, cam.k * f));
    setCamera({ k, x: mx - ((mx - cam.x) * k) / cam.k, y: my - ((my - cam.y) * k) / cam.k });
  };
  const tabsOf = (p: Piece) =>
    (setup.contours[p.part] ?? []).flatMap((c) =>
      (
        (c.contour === parts.get(p.part)?.contours[0].name && !c.by_hand && setup.own_tabs[p.id]) ||
        c.tabs
      ).map((t, index) => ({ contour: c.contour, index, x: t[0], y: t[1], angle: t[2], hand: c.by_hand })),
    );
  const ringOf = (part: Part, contour: string) =>
    part.rings[part.contours.findIndex((c) => c.name === contour)];

  /** A tab where a person points: on the nearest edge of the piece. */
  const addTab = (p: Piece, part: Part, to: XY) => {
    const best = part.contours
      .map((c, i) => {
        const on = nearestOnRing(to, part.rings[i]);
        return { name: c.name, on, away: Math.hypot(on[0] - to[0], on[1] - to[1]) };
      })
      .sort((a, b) => a.away - b.away)[0];
    if (best && best.away * cam.k < 24)
      onTabs!(p.part, best.name, [
        ...tabsOf(p)
          .filter((o) => o.contour === best.name)
          .map((o): XY => [o.x, o.y]),
        best.on,
      ]);
  };
  const shift = (id: string, screw: boolean, dx: number, dy: number) => {
    const put = <T extends { id: string; x: number; y: number }>(o: T): T =>
      o.id === id ? { ...o, x: Math.round((o.x + dx) * 10) / 10, y: Math.round((o.y + dy) * 10) / 10 } : o;
    if (screw) onScrews?.(setup.screws.map(put));
    else onFixings?.(setup.fixings.map(put));
  };
  /** Handles of what stands on the table: dragged, or moved with the arrow keys, at Cuts & hold. */
  const handle = (id: string, screw: boolean, name: string, x: number, y: number) =>
    station !== "cuts" || !onScrews
      ? { pointerEvents: "none" as const }
      : {
          "data-grab": true,
          "data-fixing": id,
          tabIndex: 0,
          role: "button",
          style: { cursor: "grab" },
          "aria-label": `${name} at ${bare(x, unit, 0)}, ${bare(y, unit, 0)}; arrow keys move it`,
          onPointerDown: (e: React.PointerEvent) => {
            e.stopPropagation();
            (e.target as Element).closest("svg")!.setPointerCapture?.(e.pointerId);
            setStuff({ id, screw, dx: 0, dy: 0, from: at(e) });
          },
          onKeyDown: (e: React.KeyboardEvent) => {
            const way: Record<string, XY> = {
                ArrowRight: [1, 0],
                ArrowLeft: [-1, 0],
                ArrowUp: [0, 1],
                ArrowDown: [0, -1],
              },
              d = way[e.key],
              step = e.shiftKey ? 50 : 5;
            if (d) {
              e.preventDefault();
              shift(id, screw, d[0] * step, d[1] * step);
            }
            if (e.key === "Delete") {
              e.preventDefault();
              if (screw) onScrews(setup.screws.filter((o) => o.id !== id));
              else onFixings?.(setup.fixings.filter((o) => o.id !== id));
            }
          },
        };
  const screwsHere = setup.screws.filter((s) => !s.sheet || (s.sheet === stock?.id && s.sheet_copy === copy));

  if (!stock)
    return (
      <div ref={box} className="grid h-full place-items-center text-quiet">
        No sheet is on the table. Choose one at Stock & table.
      </div>
    );
  const showTabs = station === "cuts" || station === "prove";
  const cells = ticks(machine.width, cam.k, unit),
    rows = ticks(machine.height, cam.k, unit);
  return (
    <div
      ref={box}
      className="relative h-full w-full touch-none select-none overflow-hidden"
      onWheel={wheel}
      data-testid="table"
      onPointerDown={(e) => {
        if (sketch && onSketch) {
          const [x, y] = at(e);
          onSketch([
            Math.min(stock.width, Math.max(0, Math.round(x))),
            Math.min(stock.height, Math.max(0, Math.round(y))),
          ]);
          return;
        }
        if ((e.target as Element).closest("[data-grab]")) return;
        setPan({ from: [e.clientX, e.clientY], camera: cam });
        onSelect(null);
      }}
      onPointerMove={(e) => {
        setHover(at(e));
        if (pan)
          setCamera({
            ...pan.camera,
            x: pan.camera.x + e.clientX - pan.from[0],
            y: pan.camera.y + e.clientY - pan.from[1],
          });
        if (drag) setDrag({ ...drag, at: at(e), free: e.altKey });
        if (stuff) {
          const [x, y] = at(e);
          setStuff({ ...stuff, dx: x - stuff.from[0], dy: y - stuff.from[1] });
        }
        if (startDrag)
          setStartDrag({
            ...startDrag,
            at: nearestOnRing(
              toPart(at(e), startDrag.piece),
              ringOf(parts.get(startDrag.piece.part)!, startDrag.contour),
            ),
          });
        if (tabDrag) {
          const part = parts.get(tabDrag.piece.part)!;
          const on = nearestOnRing(toPart(at(e), tabDrag.piece), ringOf(part, tabDrag.contour));
          setTabDrag({ ...tabDrag, tabs: tabDrag.tabs.map((t, i) => (i === tabDrag.index ? on : t)) });
        }
      }}
      onPointerUp={() => {
        setPan(null);
        if (drag && held) {
          if (Math.hypot(held.x - drag.piece.x, held.y - drag.piece.y) * cam.k > 2) onMove?.(held);
          setDrag(null);
        }
        if (stuff) {
          if (Math.hypot(stuff.dx, stuff.dy) * cam.k > 2) shift(stuff.id, stuff.screw, stuff.dx, stuff.dy);
          setStuff(null);
        }
        if (startDrag) {
          onStart?.(startDrag.piece.part, startDrag.contour, startDrag.at);
          setStartDrag(null);
        }
        if (tabDrag) {
          onTabs?.(tabDrag.piece.part, tabDrag.contour, tabDrag.tabs);
          setTabDrag(null);
        }
      }}
      onPointerLeave={() => {
        setHover(null);
        setPan(null);
        setDrag(null);
        setTabDrag(null);
        setStartDrag(null);
        setStuff(null);
      }}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden />
      <svg
        className="absolute inset-0 h-full w-full"
        role="group"
        aria-label={`Table of ${machine.name} with ${stock.name}, ${pieces.length} pieces`}
      >
        <defs>
          <pattern
            id="at-fault"
            width="7"
            height="7"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="7" height="7" fill="#f7e3dd" />
            <path d="M0 0V7" stroke="#a92f22" strokeWidth="3" />
          </pattern>
          <HoldPatterns name="table" k={cam.k} />
          <pattern id="fixing-cover" width={10 / cam.k} height={10 / cam.k} patternUnits="userSpaceOnUse">
            <path d={`M0 ${10 / cam.k}L${10 / cam.k} 0`} stroke="#7a7058" strokeWidth={1 / cam.k} />
          </pattern>
        </defs>
        <g transform={`translate(${cam.x} ${cam.y}) scale(${cam.k} ${-cam.k}) translate(${sx} ${sy})`}>
          {setup.fixings
            .filter((f) => ["cover", "fixture board", "pod", "tape"].includes(f.kind))
            .map((f) => {
              const d = stuff?.id === f.id ? stuff : null;
              return (
                <rect
                  key={f.id}
                  x={f.x - f.width / 2 + (d?.dx ?? 0)}
                  y={f.y - f.height / 2 + (d?.dy ?? 0)}
                  width={f.width}
                  height={f.height}
                  fill={
                    f.kind === "cover"
                      ? "url(#fixing-cover)"
                      : f.kind === "tape"
                        ? "rgba(196,123,15,.25)"
                        : "rgba(28,78,73,.18)"
                  }
                  stroke="#21262a"
                  strokeWidth={1}
                  strokeDasharray={f.kind === "pod" ? "5 2" : f.kind === "tape" ? "2 2" : undefined}
                  vectorEffect="non-scaling-stroke"
                  {...handle(f.id, false, f.kind, f.x, f.y)}
                >
                  <title>{f.kind}</title>
                </rect>
              );
            })}
          {(held
            ? [...pieces.filter((p) => p.id !== held.id), ...pieces.filter((p) => p.id === held.id)]
            : pieces
          ).map((p) => {
            const part = parts.get(p.part);
            if (!part) return null;
            const here = held?.id === p.id ? held : p,
              bad = setup.layout.at_fault.includes(p.id) && held?.id !== p.id,
              mine = selected === p.id;
            const grade =
              (station === "cuts" || station === "prove") && plan?.hold && !preview
                ? gradeOf(ratioAt(plan, p.id, time), plan.hold.margin)
                : null;
            const fill =
              grade && held?.id !== p.id
                ? gradeFill(grade, "table")
                : held?.id === p.id
                  ? heldTrouble
                    ? "#f3c9be"
                    : "#bcd8cf"
                  : bad
                    ? "url(#at-fault)"
                    : free.has(p.id)
                      ? "#f6f0e2"
                      : mine
                        ? "#bfd8d0"
                        : "rgba(250,244,230,.88)";
            return (
              <path
                key={p.id}
                data-grab
                data-piece={p.id}
                d={part.contours.map((c) => c.d).join("")}
                transform={placeOf(here)}
                fillRule="evenodd"
                fill={fill}
                fillOpacity={grade ? 0.92 : station === "cuts" || station === "prove" ? 0.55 : undefined}
                data-hold={grade ?? undefined}
                stroke={bad || (held?.id === p.id && heldTrouble) ? "#a92f22" : "#21262a"}
                strokeWidth={mine ? 2.6 : 1.2}
                strokeDasharray={free.has(p.id) ? "2 2" : undefined}
                vectorEffect="non-scaling-stroke"
                tabIndex={0}
                role="button"
                aria-pressed={mine}
                aria-label={`${part.name}, piece ${p.copy_no + 1}${p.locked ? ", locked" : ""}${bad ? ", at fault" : ""}`}
                style={{ cursor: movable && !p.locked ? "grab" : "pointer" }}
                onKeyDown={(e) => keys(e, p)}
                onFocus={() => onSelect(p.id)}
                onDoubleClick={(e) => {
                  if (station === "cuts" && onTabs) addTab(p, part, toPart(at(e), p));
                }}
                onPointerDown={(e) => {
                  onSelect(p.id);
                  if (movable && !p.locked) {
                    performance.clearMeasures("venzo-drag");
                    (e.target as Element).closest("svg")!.setPointerCapture?.(e.pointerId);
                    setDrag({ piece: p, from: at(e), at: at(e), free: e.altKey });
                  }
                }}
              />
            );
          })}
          {pieces.map((p) => {
            // what is engraved or pocketed reads through whatever shades the piece
            const part = parts.get(p.part),
              here = held?.id === p.id ? held : p;
            return (
              part &&
              part.features.length > 0 && (
                <path
                  key={`on ${p.id}`}
                  d={part.features.map((f) => f.d).join("")}
                  transform={placeOf(here)}
                  fill={
                    part.features.every((f) => f.kind === "engraving" && f.d.endsWith("Z"))
                      ? "rgba(66,48,24,.42)"
                      : "none"
                  }
                  fillRule="evenodd"
                  stroke="rgba(66,48,24,.75)"
                  strokeWidth={0.7}
                  vectorEffect="non-scaling-stroke"
                  pointerEvents="none"
                />
              )
            );
          })}
          {sketch && sketch.length > 0 && (
            <polyline
              points={sketch.map((q) => q.join(",")).join(" ")}
              fill="rgba(28,78,73,.12)"
              stroke="#1c4e49"
              strokeWidth={2.4}
              vectorEffect="non-scaling-stroke"
            />
          )}
          {sketch?.map((q, i) => (
            <circle key={i} cx={q[0]} cy={q[1]} r={4 / cam.k} fill="#1c4e49" />
          ))}
          {setup.fixings
            .filter((f) => ["clamp", "cam", "pin"].includes(f.kind))
            .map((f) => {
              const d = stuff?.id === f.id ? stuff : null,
                x = f.x + (d?.dx ?? 0),
                y = f.y + (d?.dy ?? 0);
              return f.kind === "pin" ? (
                <circle
                  key={f.id}
                  cx={x}
                  cy={y}
                  r={Math.max(f.width / 2, 4 / cam.k)}
                  fill="#21262a"
                  {...handle(f.id, false, "pin", f.x, f.y)}
                />
              ) : (
                <g key={f.id} {...handle(f.id, false, f.kind, f.x, f.y)}>
                  <rect
                    x={x - f.width / 2}
                    y={y - f.height / 2}
                    width={f.width}
                    height={f.height}
                    fill="#fffdf8"
                    stroke="#21262a"
                    strokeWidth={2}
                    vectorEffect="non-scaling-stroke"
                  />
                  <path
                    d={
                      f.kind === "clamp"
                        ? `M${x - f.width / 2} ${y - f.height / 2}l${f.width} ${f.height}m0 ${-f.height}l${-f.width} ${f.height}`
                        : `M${x - f.width / 2} ${y}h${f.width}`
                    }
                    stroke="#21262a"
                    strokeWidth={1.2}
                    vectorEffect="non-scaling-stroke"
                  />
                </g>
              );
            })}
          {screwsHere.map((s) => {
            const d = stuff?.id === s.id ? stuff : null,
              r = Math.max(s.head / 2, 3.5 / cam.k),
              x = s.x + (d?.dx ?? 0),
              y = s.y + (d?.dy ?? 0);
            return (
              <g key={s.id} {...handle(s.id, true, s.kind, s.x, s.y)}>
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
          })}
        </g>
        {pieces.map((p) => {
          const part = parts.get(p.part);
          if (!part) return null;
          const here = held?.id === p.id ? held : p,
            mid = toSheet([part.label[0], part.label[1]], here);
          const w = (part.box[2] - part.box[0]) * cam.k,
            h = (part.box[3] - part.box[1]) * cam.k;
          if (
            part.label[2] * cam.k < 8 ||
            Math.min(w, h) < 13 ||
            Math.max(w, h) < 34 ||
            (part.name.length * 6.2 > Math.max(w, h) && Math.min(w, h) < 44)
          )
            return p.locked ? (
              <LockMark key={p.id} x={cam.x + (mid[0] + sx) * cam.k} y={cam.y - (mid[1] + sy) * cam.k} />
            ) : null;
          const upright =
            (Math.round(here.rotation / 90) % 2 === 0 ? h > w : w > h) &&
            part.name.length * 6.2 > Math.min(w, h);
          const X = cam.x + (mid[0] + sx) * cam.k,
            Y = cam.y - (mid[1] + sy) * cam.k;
          return (
            <g
              key={p.id}
              pointerEvents="none"
              transform={`translate(${X} ${Y})${upright ? " rotate(-90)" : ""}`}
            >
              <text
                textAnchor="middle"
                dy={p.locked ? -2 : 4}
                fontSize={12}
                fill="#21262a"
                stroke="#faf6ee"
                strokeWidth={3}
                paintOrder="stroke"
              >
                {part.name}
              </text>
              {(station === "cuts" || station === "prove") &&
                plan?.hold &&
                !preview &&
                part.label[2] * cam.k > 19 &&
                ratioAt(plan, p.id, time) !== undefined && (
                  <text
                    className="num"
                    textAnchor="middle"
                    dy={18}
                    fontSize={13}
                    fontWeight={600}
                    fill="#21262a"
                    stroke="#faf6ee"
                    strokeWidth={3}
                    paintOrder="stroke"
                  >
                    {times(ratioAt(plan, p.id, time))}×
                  </text>
                )}
              {p.locked && <LockMark x={0} y={8} />}
            </g>
          );
        })}
        {showTabs &&
          pieces.flatMap((p) =>
            tabsOf(p).map((t) => {
              const dragged =
                tabDrag && tabDrag.piece.id === p.id && tabDrag.contour === t.contour
                  ? tabDrag.tabs[t.index]
                  : null;
              const [X, Y] = toSheet(dragged ?? [t.x, t.y], p),
                mine = selected === p.id;
              const angle = -(p.mirrored ? 180 - t.angle : t.angle) - p.rotation;
              return (
                <rect
                  key={`${p.id}/${t.contour}/${t.index}`}
                  x={-HANDLE.w / 2}
                  y={-HANDLE.h / 2}
                  width={HANDLE.w}
                  height={HANDLE.h}
                  rx={1}
                  transform={`translate(${cam.x + (X + sx) * cam.k} ${cam.y - (Y + sy) * cam.k}) rotate(${angle}) scale(${mine ? 1.35 : 0.8})`}
                  fill={t.hand ? "#1c4e49" : "#fffdf8"}
                  stroke="#21262a"
                  strokeWidth={1.3}
                  {...(mine && station === "cuts" && onTabs
                    ? {
                        "data-grab": true,
                        "data-tab": `${t.contour}/${t.index}`,
                        tabIndex: 0,
                        role: "button",
                        style: { cursor: "grab" },
                        "aria-label": `tab ${t.index + 1} on ${t.contour}; arrow keys move it, Delete takes it away`,
                        onPointerDown: (e: React.PointerEvent) => {
                          e.stopPropagation();
                          (e.target as Element).closest("svg")!.setPointerCapture?.(e.pointerId);
                          setTabDrag({
                            piece: p,
                            contour: t.contour,
                            index: t.index,
                            tabs: tabsOf(p)
                              .filter((o) => o.contour === t.contour)
                              .map((o) => [o.x, o.y]),
                          });
                        },
                        onKeyDown: (e: React.KeyboardEvent) => {
                          if (e.key === "Delete" || e.key === "Backspace") {
                            e.preventDefault();
                            onTabs(
                              p.part,
                              t.contour,
                              tabsOf(p)
                                .filter((o) => o.contour === t.contour && o.index !== t.index)
                                .map((o) => [o.x, o.y]),
                            );
                            return;
                          }
                          const way =
                            e.key === "ArrowRight" || e.key === "ArrowUp"
                              ? 1
                              : e.key === "ArrowLeft" || e.key === "ArrowDown"
                                ? -1
                                : 0;
                          if (!way) return;
                          e.preventDefault();
                          const r = (t.angle * Math.PI) / 180,
                            step = (e.shiftKey ? 25 : 5) * way,
                            ring = ringOf(parts.get(p.part)!, t.contour);
                          onTabs(
                            p.part,
                            t.contour,
                            tabsOf(p)
                              .filter((o) => o.contour === t.contour)
                              .map((o) =>
                                o.index === t.index
                                  ? nearestOnRing([o.x + step * Math.cos(r), o.y + step * Math.sin(r)], ring)
                                  : [o.x, o.y],
                              ),
                          );
                        },
                      }
                    : { pointerEvents: "none" })}
                />
              );
            }),
          )}
        {station === "cuts" &&
          onStart &&
          plan &&
          selected &&
          (() => {
            // where the selected piece's contours are entered
            const p = pieces.find((q) => q.id === selected),
              part = p && parts.get(p.part),
              seen = new Set<string>();
            if (!p || !part) return null;
            return plan.cuts
              .filter(
                (c) =>
                  c.piece === p.id &&
                  c.kind === "profile" &&
                  part.contours.some((k) => k.name === c.contour) &&
                  !seen.has(c.contour) &&
                  seen.add(c.contour),
              )
              .map((c) => {
                const own = toPart(c.start, p),
                  ring = ringOf(part, c.contour),
                  on = startDrag?.contour === c.contour ? startDrag.at : nearestOnRing(own, ring),
                  [X, Y] = toSheet(on, p);
                return (
                  <path
                    key={c.contour}
                    d="M0 -6L6 0L0 6L-6 0Z"
                    transform={`translate(${cam.x + (X + sx) * cam.k} ${cam.y - (Y + sy) * cam.k})`}
                    fill="#fffdf8"
                    stroke="#1c4e49"
                    strokeWidth={2}
                    data-grab
                    data-start={c.contour}
                    tabIndex={0}
                    role="button"
                    style={{ cursor: "grab" }}
                    aria-label={`start of ${c.contour}; arrow keys move it`}
                    onPointerDown={(e) => {
                      e.stopPropagation();
                      (e.target as Element).closest("svg")!.setPointerCapture?.(e.pointerId);
                      setStartDrag({ piece: p, contour: c.contour, at: on });
                    }}
                    onKeyDown={(e) => {
                      const way: Record<string, XY> = {
                          ArrowRight: [1, 0],
                          ArrowLeft: [-1, 0],
                          ArrowUp: [0, 1],
                          ArrowDown: [0, -1],
                        },
                        step = e.shiftKey ? 25 : 5,
                        d = way[e.key];
                      if (!d) return;
                      e.preventDefault();
                      onStart(
                        p.part,
                        c.contour,
                        nearestOnRing(toPart([X + d[0] * step, Y + d[1] * step], p), ring),
                      );
                    }}
                  />
                );
              });
          })()}
        <Datum
          x={cam.x + (sx + (setup.datum === "centre" ? stock.width / 2 : 0)) * cam.k}
          y={cam.y - (sy + (setup.datum === "centre" ? stock.height / 2 : 0)) * cam.k}
          z={setup.z_zero}
        />
        {station === "stock" &&
          machine.zones.map((z) => (
            <text
              key={z.id}
              x={cam.x + z.rect[0] * cam.k + 9}
              y={cam.y - z.rect[3] * cam.k + 17}
              fontSize={12}
              fill="#45534f"
              stroke="#faf6ee"
              strokeWidth={3}
              paintOrder="stroke"
            >
              zone {z.id} {setup.zones_on.includes(z.id) ? "on" : "off"}
            </text>
          ))}
        <g className="num" fontSize={10.5} fill="#21262a">
          <rect x={0} y={size[1] - RULER + 8} width={size[0]} height={RULER} fill="#ece4d4" />
          <rect x={0} y={0} width={RULER + 4} height={size[1]} fill="#ece4d4" />
          {cells.map((v) => {
            const X = cam.x + v * cam.k;
            return X > RULER + 4 && X < size[0] - 8 ? (
              <g key={v}>
                <path d={`M${X} ${size[1] - RULER + 8}v5`} stroke="#21262a" />
                <text x={X} y={size[1] - 7} textAnchor="middle">
                  {bare(v, unit, 2)}
                </text>
              </g>
            ) : null;
          })}
          {rows.map((v) => {
            const Y = cam.y - v * cam.k;
            return Y < size[1] - RULER && Y > 8 ? (
              <g key={v}>
                <path d={`M${RULER + 4} ${Y}h-5`} stroke="#21262a" />
                <text x={RULER - 3} y={Y + 3.5} textAnchor="end">
                  {bare(v, unit, 2)}
                </text>
              </g>
            ) : null;
          })}
        </g>
        {held && (
          <Bubble
            x={cam.x + (drag!.at[0] + sx) * cam.k + 16}
            y={cam.y - (drag!.at[1] + sy) * cam.k - 16}
            text={
              heldTrouble?.text ??
              `${bare(held.x - drag!.piece.x, unit)}, ${bare(held.y - drag!.piece.y, unit)}${contact ? ", in contact" : ""}`
            }
            bad={!!heldTrouble}
            width={size[0]}
          />
        )}
      </svg>
      <div className="absolute right-2 top-2 flex gap-1 text-[13px]">
        <button className="key !py-0" onClick={() => setCamera(fit("sheet"))}>
          Sheet
        </button>
        <button className="key !py-0" onClick={() => setCamera(fit("table"))}>
          Table
        </button>
      </div>
      {(station === "cuts" || station === "prove") && plan?.hold && !preview && (
        <div
          className="pointer-events-none absolute bottom-8 right-32 flex items-center gap-3 bg-paper/85 px-2 py-0.5 text-[12.5px]"
          aria-label="Scale of hold"
        >
          <b className="font-semibold">{time === null ? "least hold" : "hold"}</b>
          {GRADES.map(([g, words], i) => (
            <span key={g} className="flex items-center gap-1">
              <svg width="17" height="13" aria-hidden>
                {i === 0 && (
                  <defs>
                    <HoldPatterns name="scale" />
                  </defs>
                )}
                <rect
                  x=".5"
                  y=".5"
                  width="16"
                  height="12"
                  fill={gradeFill(g, "scale")}
                  stroke="#21262a"
                  strokeWidth=".8"
                />
              </svg>
              {words}
            </span>
          ))}
        </div>
      )}
      {hover && (
        <div className="num pointer-events-none absolute bottom-8 right-2 bg-paper/85 px-1 text-[12px]">
          {bare(hover[0], unit, unit === "mm" ? 0 : 2)}, {bare(hover[1], unit, unit === "mm" ? 0 : 2)} {unit}
        </div>
      )}
    </div>
  );
}

/** The next rotation a part allows, or a quarter turn where it may lie freely. */
export function nextTurn(part: Part, now: number, way: 1 | -1): number {
  if (part.rotations === "free") return (now + way * 15 + 360) % 360;
  const all = [...part.rotations].sort((a, b) => a - b),
    i = all.findIndex((r) => Math.abs(((r - now + 540) % 360) - 180) < 0.01);
  return all[(i + way + all.length) % all.length];
}

/** A piece turned about the middle of its box. */
export function turned(p: Piece, part: Part, rotation: number): Piece {
  const mid: XY = [(part.box[0] + part.box[2]) / 2, (part.box[1] + part.box[3]) / 2];
  const before = toSheet(mid, p),
    after = toSheet(mid, { ...p, rotation });
  return { ...p, rotation, x: p.x + before[0] - after[0], y: p.y + before[1] - after[1] };
}

/** A piece turned over about the middle of its box. */
export function mirroredPiece(p: Piece, part: Part): Piece {
  const mid: XY = [(part.box[0] + part.box[2]) / 2, (part.box[1] + part.box[3]) / 2],
    flip = { ...p, mirrored: !p.mirrored };
  const before = toSheet(mid, p),
    after = toSheet(mid, flip);
  return { ...flip, x: p.x + before[0] - after[0], y: p.y + before[1] - after[1] };
}

function ticks(end: number, k: number, unit: "mm" | "in"): number[] {
  const steps =
    unit === "mm" ? [10, 20, 50, 100, 200, 500, 1000] : [0.5, 1, 2, 6, 12, 24, 48].map((v) => v * 25.4);
  const step = steps.find((s) => s * k > 46) ?? steps[steps.length - 1];
  return Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step);
}

function Datum({ x, y, z }: { x: number; y: number; z: string }) {
  return (
    <g pointerEvents="none" aria-label="datum">
      <path d={`M${x} ${y}h46M${x} ${y}v-46`} stroke="#21262a" strokeWidth={2.4} />
      <circle cx={x} cy={y} r={6.5} fill="#fff" stroke="#21262a" strokeWidth={2.4} />
      <text
        x={x + 10}
        y={y + 15}
        fontSize={12}
        fontWeight={600}
        fill="#21262a"
        stroke="#ece4d4"
        strokeWidth={3}
        paintOrder="stroke"
      >
        X0 Y0, Z0 {z === "bed" ? "on the bed" : "on top"}
      </text>
    </g>
  );
}

const LockMark = ({ x, y }: { x: number; y: number }) => (
  <g transform={`translate(${x} ${y})`} pointerEvents="none" aria-label="locked">
    <circle r={6} fill="#21262a" />
    <path d="M0 -6V-13M-3.4 -10.5H3.4" stroke="#21262a" strokeWidth={2} />
  </g>
);

function Bubble({
  x,
  y,
  text,
  bad,
  width,
}: {
  x: number;
  y: number;
  text: string;
  bad: boolean;
  width: number;
}) {
  const w = text.length * 7 + 18,
    left = Math.min(x, width - w - 4);
  return (
    <g pointerEvents="none" data-testid="drag-says">
      <rect
        x={left}
        y={y - 17}
        width={w}
        height={24}
        fill="#fffdf8"
        stroke={bad ? "#a92f22" : "#1c4e49"}
        strokeWidth={1.6}
      />
      <text x={left + 9} y={y} fontSize={13.5} fontWeight={500} fill={bad ? "#a92f22" : "#21262a"}>
        {text}
      </text>
    </g>
  );
}
