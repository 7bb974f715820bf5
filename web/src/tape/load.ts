import type { LoadDocument } from "../api/model";
import { length, quantity, type Unit } from "../shared/lengths";

export type Row = LoadDocument["rows"][number];

export const NAMES: Record<Row["of"], string> = {
  removal: "material removed",
  power: "power at the edge",
  chip: "thickness of the chip",
  bend: "bend of the cutter",
  feed: "share of the feed reached",
};

/** A value of a row in the shop's words. */
export function inShop(of: Row["of"], value: number, unit: Unit): string {
  if (of === "removal") return quantity(value, "removal", unit);
  if (of === "power") return `${(value / 1000).toFixed(2)} kW`;
  if (of === "feed") return `${Math.round(value * 100)} %`;
  return length(value, unit, unit === "mm" ? 3 : 4);
}

/** The number of a value, short: it names the height of a strip. */
export const rounded = (of: Row["of"], value: number, unit: Unit) =>
  String(Number(Number.parseFloat(inShop(of, value, unit)).toPrecision(2)));

/** The top of the strip: the highest value, or a limit that lies a little over it. */
export function reach(row: Row): number {
  if (row.of === "feed") return 1;
  const highest = Math.max(0, ...row.values.map((v) => v ?? 0));
  const limits = row.limits.flatMap((l) => [l.least ?? 0, l.most ?? 0]).filter((v) => v <= 1.6 * highest);
  return Math.max(highest, ...limits) * 1.05 || 1;
}

export const valueAt = (row: Row, time: number, total: number) =>
  row.values[Math.min(row.values.length - 1, Math.floor((time / total) * row.values.length))] ?? null;

/** The limits that stand at a moment. */
const limitAt = (row: Row, time: number) => row.limits.find((l) => l.begins <= time && time <= l.ends);

/** What a row says at a moment, or of the whole tape. */
export function said(row: Row, now: number | null, time: number | null, unit: Unit): string {
  const show = (v: number) => inShop(row.of, v, unit);
  if (time === null) {
    const cut = row.values.filter((v): v is number => v !== null);
    if (!cut.length) return "nothing is cut";
    return row.of === "feed"
      ? `least ${show(Math.min(...cut))}, ${show(cut.reduce((a, b) => a + b, 0) / cut.length)} on the mean`
      : `at most ${show(Math.max(...cut))}${limitWords(row.limits, show)}`;
  }
  if (now === null) return "nothing is cut here";
  const limit = limitAt(row, time);
  return `${show(now)} here${limit ? limitWords([limit], show) : ""}`;
}

/** Limits in words, where they are one and the same all along. */
function limitWords(limits: Row["limits"], show: (v: number) => string): string {
  const [first] = limits;
  if (!first || limits.some((l) => l.least !== first.least || l.most !== first.most)) return "";
  if (first.least !== null && first.most !== null)
    return `; its window ${show(first.least)} to ${show(first.most)}`;
  return first.most !== null ? `; limit ${show(first.most)}` : "";
}

/** The outline of a row: a step for every stretch, gaps where nothing is cut. */
export function path(
  row: Row,
  total: number,
  X: (t: number) => number,
  Y: (v: number) => number,
  base: number,
): string {
  const each = total / row.values.length;
  let out = "";
  row.values.forEach((v, i) => {
    const begins = out === "" || row.values[i - 1] === null,
      ends = i === row.values.length - 1 || row.values[i + 1] === null;
    if (v === null) return;
    const x0 = X(i * each).toFixed(1),
      x1 = X((i + 1) * each).toFixed(1),
      y = Y(v).toFixed(1);
    out += `${begins ? `M${x0} ${base}V${y}` : `V${y}`}H${x1}${ends ? `V${base}` : ""}`;
  });
  return out;
}
