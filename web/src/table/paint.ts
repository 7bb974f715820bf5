/** What is only looked at, painted: table, zones, grid, dead areas, the sheet with its grain, the cuts. */
import type { Family, Machine, Piece, Setup, Stock } from "../api/model";
import type { Camera } from "./camera";
import type { Shown } from "./shown";

type Pen = CanvasRenderingContext2D;
const INK = "#21262a";

/** Everything on a canvas, which is cleared; ``ticks``: where the rulers have marks, mm. */
export function paintTable(
  canvas: HTMLCanvasElement,
  shown: Shown,
  size: [number, number],
  ticks: { x: number[]; y: number[] },
) {
  const { setup, stock, station, camera } = shown;
  const dpr = window.devicePixelRatio || 1,
    px = 1 / camera.k;
  canvas.width = size[0] * dpr;
  canvas.height = size[1] * dpr;
  const g = canvas.getContext("2d")!;
  inTable(g, camera, dpr);
  bed(g, setup.machine);
  zones(g, setup, px);
  grid(g, setup.machine, ticks, px);
  deadAreas(g, setup.machine, px);
  g.strokeStyle = INK;
  g.lineWidth = px * 1.2;
  g.strokeRect(0, 0, setup.machine.width, setup.machine.height);
  if (station === "stock") numbered(g, setup, px);
  g.translate(...setup.sheet_at);
  g.rotate((setup.turn * Math.PI) / 180);
  sheet(g, stock, setup.material.family, px);
  for (const f of stock.flaws) flaw(g, f, px);
  if (station === "nest" || station === "stock") margin(g, stock, px);
  if ((station === "cuts" || station === "prove") && !shown.preview && !shown.asCut) cuts(g, shown, px);
}

const inTable = (g: Pen, c: Camera, dpr: number) =>
  g.setTransform(dpr * c.k, 0, 0, -dpr * c.k, dpr * c.x, dpr * c.y);

function bed(g: Pen, m: Machine) {
  g.fillStyle = "#dcd1bb";
  g.fillRect(0, 0, m.width, m.height);
}

function zones(g: Pen, setup: Setup, px: number) {
  for (const z of setup.machine.zones) {
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
}

function grid(g: Pen, m: Machine, ticks: { x: number[]; y: number[] }, px: number) {
  g.lineWidth = px * 0.5;
  g.strokeStyle = "rgba(90,80,60,.25)";
  g.beginPath();
  for (const x of ticks.x) {
    g.moveTo(x, 0);
    g.lineTo(x, m.height);
  }
  for (const y of ticks.y) {
    g.moveTo(0, y);
    g.lineTo(m.width, y);
  }
  g.stroke();
}

/** The numbered grid of the table, where a square can be read with its number. */
function numbered(g: Pen, { machine: { grid: squares } }: Setup, px: number) {
  if (!squares || squares.pitch / px < 14) return;
  const { pitch, at, columns, rows } = squares,
    size = Math.min(11 * px, pitch * 0.3);
  g.lineWidth = px * 0.8;
  g.strokeStyle = "rgba(33,38,42,.45)";
  g.beginPath();
  for (let i = 0; i <= columns; i++) {
    g.moveTo(at[0] + i * pitch, at[1]);
    g.lineTo(at[0] + i * pitch, at[1] + rows * pitch);
  }
  for (let j = 0; j <= rows; j++) {
    g.moveTo(at[0], at[1] + j * pitch);
    g.lineTo(at[0] + columns * pitch, at[1] + j * pitch);
  }
  g.stroke();
  g.fillStyle = "rgba(33,38,42,.75)";
  g.font = `${size}px "Public Sans", sans-serif`;
  for (let i = 0; i < columns * rows; i++) {
    const x = at[0] + (i % columns) * pitch,
      y = at[1] + Math.floor(i / columns) * pitch;
    g.save();
    g.translate(x + size * 0.3, y + size * 0.35);
    g.scale(1, -1);
    g.fillText(String(i + 1), 0, 0);
    g.restore();
  }
}

/** Slanting lines over a box that is filled and clipped. */
function hatched(g: Pen, [x0, y0, x1, y1]: [number, number, number, number], step: number, both = false) {
  g.beginPath();
  for (let t = x0 - (y1 - y0); t < x1; t += step) {
    g.moveTo(t, y0);
    g.lineTo(t + (y1 - y0), y1);
    if (both) {
      g.moveTo(t, y1);
      g.lineTo(t + (y1 - y0), y0);
    }
  }
  g.stroke();
}

function clipped(g: Pen, [x0, y0, x1, y1]: [number, number, number, number], draw: () => void) {
  g.save();
  g.beginPath();
  g.rect(x0, y0, x1 - x0, y1 - y0);
  g.clip();
  g.fillRect(x0, y0, x1 - x0, y1 - y0);
  draw();
  g.restore();
}

function deadAreas(g: Pen, m: Machine, px: number) {
  for (const area of m.dead_areas) {
    g.fillStyle = "rgba(120,105,80,.28)";
    g.strokeStyle = "rgba(60,50,35,.55)";
    g.lineWidth = px;
    clipped(g, area, () => hatched(g, area, 9 * px));
  }
}

function edgeOf(g: Pen, s: Stock) {
  g.beginPath();
  if (s.outline.length > 2) {
    s.outline.forEach(([x, y], i) => (i ? g.lineTo(x, y) : g.moveTo(x, y)));
    g.closePath();
  } else g.rect(0, 0, s.width, s.height);
}

const GROUND: Partial<Record<Family, string>> = { wood: "#eedcb6", plastic: "#e4ecf0" };

/** The sheet, its material told apart by a quiet texture. */
function sheet(g: Pen, s: Stock, family: Family, px: number) {
  g.fillStyle = GROUND[family] ?? "#d9dbdc";
  edgeOf(g, s);
  g.fill();
  g.save();
  edgeOf(g, s);
  g.clip();
  g.lineWidth = px * 0.8;
  if (s.grain !== null) grain(g, s, px);
  else if (family === "plastic") dots(g, s, px);
  else {
    g.strokeStyle = "rgba(60,70,80,.16)";
    hatched(g, [0, 0, s.width, s.height], 7 * px);
  }
  g.restore();
  g.strokeStyle = INK;
  g.lineWidth = 1.6 * px;
  edgeOf(g, s);
  g.stroke();
}

function grain(g: Pen, s: Stock, px: number) {
  const lying = s.grain === 0;
  const along = lying ? s.width : s.height,
    across = lying ? s.height : s.width;
  g.strokeStyle = "rgba(160,120,60,.30)";
  g.beginPath();
  for (let v = 6 * px; v < across; v += 9 * px) {
    const wobble = 2.2 * px * Math.sin(v * 0.37);
    for (let u = 0; u <= along + 60 * px; u += 60 * px) {
      const w = v + wobble * Math.sin(u / (70 * px) + v * 0.11);
      const [x, y] = lying ? [u, w] : [w, u];
      if (u === 0) g.moveTo(x, y);
      else g.lineTo(x, y);
    }
  }
  g.stroke();
}

function dots(g: Pen, s: Stock, px: number) {
  g.fillStyle = "rgba(70,110,130,.22)";
  for (let x = 8 * px; x < s.width; x += 16 * px)
    for (let y = 8 * px; y < s.height; y += 16 * px) g.fillRect(x, y, px, px);
}

function flaw(g: Pen, f: { x: number; y: number; width: number; height: number }, px: number) {
  const area: [number, number, number, number] = [f.x, f.y, f.x + f.width, f.y + f.height];
  g.fillStyle = "rgba(110,60,30,.30)";
  g.strokeStyle = "#5a3216";
  g.lineWidth = px * 1.3;
  clipped(g, area, () => hatched(g, area, 7 * px, true));
  g.lineWidth = px;
  g.strokeRect(f.x, f.y, f.width, f.height);
}

function margin(g: Pen, s: Stock, px: number) {
  if (s.outline.length > 2) return;
  g.setLineDash([3 * px, 4 * px]);
  g.lineWidth = px;
  g.strokeStyle = "rgba(33,38,42,.5)";
  g.strokeRect(s.margin, s.margin, s.width - 2 * s.margin, s.height - 2 * s.margin);
  g.setLineDash([]);
}

/** The lines of every cut: done, being cut at the moment on the tape, or still to come. */
function cuts(g: Pen, { setup, stock, plan, pieces, time }: Shown, px: number) {
  const paths = setup.paths[stock.id] ?? {},
    byId = new Map(pieces.map((p) => [p.id, p]));
  for (const cut of plan?.cuts ?? []) {
    const p = byId.get(cut.piece);
    const lines = p && paths[p.part + (p.mirrored ? "!" : "")];
    if (!lines) continue;
    const done = time === null || cut.begins + cut.seconds <= time,
      now = time !== null && !done && cut.begins <= time;
    pen(g, { fine: cut.kind !== "profile", done, now }, px);
    g.save();
    onPiece(g, p);
    for (const c of lines)
      if (c.contour === cut.contour && c.cutter === cut.cutter && c.operation === cut.operation)
        g.stroke(new Path2D(c.d));
    g.restore();
  }
  g.setLineDash([]);
}

function onPiece(g: Pen, p: Piece) {
  g.translate(p.x, p.y);
  g.rotate((p.rotation * Math.PI) / 180);
}

/** What does not go through is drawn finer. */
function pen(g: Pen, cut: { fine: boolean; done: boolean; now: boolean }, px: number) {
  g.strokeStyle = cut.now ? "#a92f22" : cut.fine ? "#6b5a3a" : INK;
  if (cut.now) g.lineWidth = px * (cut.fine ? 1.8 : 3);
  else g.lineWidth = px * (cut.fine ? 0.7 : cut.done ? 1.1 : 0.8);
  g.setLineDash(cut.done || cut.now ? [] : [3 * px, 3 * px]);
}
