/** The words of steps: what a kind of step is called, where it goes, which cutters suit it. */
import type { Cutter, On, StepKind, StepPlan } from "../../api/model";
import type { Unit } from "../../shared/lengths";

export const FEATURE: Record<On, string> = {
  outlines: "Outlines",
  holes: "Holes",
  "round holes": "Round holes",
  pockets: "Pockets",
  grooves: "Grooves",
  engravings: "Engraving",
  drillings: "Drilling",
  reliefs: "Reliefs",
};
export const VERB: Record<StepKind, string> = {
  profile: "Follow",
  pocket: "Clear",
  groove: "Run along the line",
  drill: "Drill",
  bore: "Bore along a helix",
  chamfer: "Break the edge",
  face: "Take the face down",
  "v-carve": "Carve along the middle",
  "relief rough": "Rough in levels",
  "relief finish": "Roll over the surface",
};
export const KINDS_ON: Record<On, [StepKind, string][]> = {
  outlines: [
    ["profile", "follow it"],
    ["chamfer", "break its edge"],
    ["face", "take the face down"],
  ],
  holes: [
    ["profile", "follow it"],
    ["chamfer", "break its edge"],
  ],
  "round holes": [
    ["bore", "bore along a helix"],
    ["drill", "drill"],
    ["profile", "follow it"],
    ["chamfer", "break its edge"],
  ],
  pockets: [
    ["pocket", "clear it"],
    ["profile", "close its walls"],
    ["v-carve", "carve it with a V bit"],
    ["chamfer", "break its edge"],
  ],
  grooves: [
    ["groove", "run along lines"],
    ["pocket", "clear areas"],
  ],
  engravings: [
    ["groove", "run along lines"],
    ["v-carve", "carve shapes with a V bit"],
  ],
  drillings: [
    ["drill", "drill"],
    ["bore", "bore along a helix"],
    ["pocket", "clear"],
  ],
  reliefs: [
    ["relief rough", "rough in levels"],
    ["relief finish", "finish"],
  ],
};
export const KINDS: Cutter["kind"][] = [
  "straight",
  "up-cut",
  "down-cut",
  "compression",
  "roughing",
  "single-flute",
  "diamond-tipped",
  "ball",
  "tapered ball",
  "v-bit",
  "bowl",
  "roundover",
  "point roundover",
  "surfacing",
  "drill",
];
const FLAT: Cutter["kind"][] = [
  "straight",
  "up-cut",
  "down-cut",
  "compression",
  "roughing",
  "single-flute",
  "diamond-tipped",
  "surfacing",
];
/** Cutters offered for a kind of step; the one chosen stays offered whatever it is. */
export function suits(kind: StepKind, c: Cutter): boolean {
  if (kind === "v-carve") return c.kind === "v-bit";
  if (kind === "relief finish") return ["ball", "tapered ball", "bowl"].includes(c.kind);
  if (kind === "chamfer") return ["v-bit", "roundover", "point roundover"].includes(c.kind);
  if (kind === "drill") return c.kind === "drill" || FLAT.includes(c.kind);
  if (kind === "groove") return c.kind !== "surfacing" && c.kind !== "drill";
  if (kind === "face") return FLAT.includes(c.kind);
  return FLAT.includes(c.kind) || ["ball", "tapered ball", "bowl"].includes(c.kind);
}

export const speed = (mmMin: number, unit: Unit) =>
  unit === "mm"
    ? `${(mmMin / 1000).toFixed(mmMin < 1000 ? 2 : 1)} m/min`
    : `${(mmMin / 25.4).toFixed(0)} in/min`;

/** Why a number of a step is what it is. */
export const why = (p: StepPlan | undefined, what: string) => p?.why.find(([k]) => k === what)?.[1];
export const flat = (c: Cutter) => FLAT.includes(c.kind);
