/** The documents the API returns, as the screens use them. Lengths mm, times s, angles degrees. */

export type Severity = "stop" | "look" | "note";
export type Remedy = { label: string; command: Record<string, unknown> };
export type Snag = { rule: string; severity: Severity; message: string; where: Record<string, unknown> | null; remedies: Remedy[] };
export type XY = [number, number];

export type Feature = { name: string; kind: string; d: string; depth: number | null };
export type Contour = { name: string; d: string; size: XY };
export type Part = {
  id: string; name: string; setup: string; drawing: string; quantity: number; lines: { order: string; quantity: number }[];
  rotations: "free" | number[]; grain: 0 | 90 | null; mirror: boolean; group: string; priority: number; fill: boolean; missing: boolean; box: [number, number, number, number];
  origin: XY; shape: string; features: Feature[]; altered: number; versions: number; note: string; label: [number, number, number]; area: number; perimeter: number; contours: Contour[]; rings: XY[][];
};
export type Piece = {
  id: string; part: string; copy_no: number; sheet: string; sheet_copy: number; x: number; y: number; rotation: number; mirrored: boolean; locked: boolean;
};
export type Stock = {
  id: string; name: string; width: number; height: number; quantity: number; nominal: number; readings: number[]; margin: number;
  grain: 0 | 90 | null; price: number | null; thickness: number; spread: number; outline: XY[]; flaws: Flaw[];
};
export type Flaw = { x: number; y: number; width: number; height: number; clearance: number };
export type KeptPiece = Pick<Piece, "part" | "sheet" | "sheet_copy" | "x" | "y" | "rotation" | "mirrored">;
export type Kept = { id: string; name: string; sheets: number; last: number; yield: number; placed: number; current: boolean; pieces: KeptPiece[] };
export type Feeds = { rpm: number; feed: number; plunge: number; source: string };
export type Cutter = { id: string; number: number; name: string; kind: string; diameter: number; flutes: number; cutting_length: number; feeds: Record<string, Feeds> };
export type Tabs = { count: number; width: number; height: number };
export type Operation = {
  kind: "profile"; id: string; on: "outlines" | "holes"; cutter: string; direction: "climb" | "conventional";
  step_down: number | null; overshoot: number | null; ramp_length: number | null; tabs: Tabs | null;
};
export type Machine = {
  id: string; name: string; width: number; height: number; dead_areas: [number, number, number, number][]; zones: { id: string; rect: [number, number, number, number] }[];
  clearance: number; retract: number; change_seconds: number; home: string; dialect: { name: string; inch: boolean; tool_change: boolean };
};
export type Material = { id: string; name: string; family: "wood" | "plastic" | "aluminium"; price_m2: number; grained: boolean; caution: string };
export type ContourPlan = {
  contour: string; operation: string; cutter: string; inside: boolean; passes: number; depth: number; step_down: number; tabs: [number, number, number][];
  by_hand: boolean; omitted: boolean; reason: string;
};
export type CutCell = { piece: string; contour: string; cutter: string; inside: boolean; begins: number; seconds: number; passes: number; tabs: number; start: XY };
export type SheetPlan = { sheet: string; copy_no: number; seconds: number; cut_length: number; rapid_length: number; changes: [number, string][]; cuts: CutCell[] };
export type SheetYield = {
  sheet: string; copy_no: number; pieces: number; net_area: number; sheet_area: number; utilisation: number; used_length: number; remnant: XY | null;
  cut_length: number; rapid_length: number; seconds: number; material_cost: number; machine_cost: number; net_mass: number;
};
export type JobYield = {
  sheets: SheetYield[]; pieces: number; net_area: number; sheet_area: number; utilisation: number; cut_length: number; seconds: number;
  material_cost: number; machine_cost: number; bound: number;
};
export type Screw = { id: string; x: number; y: number; head: number; proud: number };
export type Rules = { name: string; step_down: string; web: number; tabs: Record<string, Tabs>; overshoot: Record<string, number> };
export type Setup = {
  id: string; name: string; machine: Machine; material: Material; cutters: Cutter[]; rules: Rules & Record<string, unknown>; stock: Stock[];
  datum: "lower left" | "centre"; z_zero: "top" | "bed"; sheet_at: XY; zones_on: string[]; screws: Screw[]; operations: Operation[]; spacing: number;
  layout: { state: "none" | "fits" | "adrift" | "broken"; unplaced: Record<string, number>; at_fault: string[]; bound: number; engine: string; steps: number; last: number; yield: number; same: { sheet: string; copies: number[] }[] };
  kept: Kept[]; guillotine: boolean; same_layouts: boolean; allow_in_holes: boolean;
  pieces: Piece[]; snags: Snag[]; contours: Record<string, ContourPlan[]>; paths: Record<string, Record<string, { contour: string; cutter: string; d: string }[]>>;
  sheets: SheetPlan[]; cutters_used: string[]; yields: JobYield; tabs_policy: Tabs;
  release: { contains: { part: string; pieces: number }[]; cuts: number; sheets: number; leaves_out: string[]; stops: string[];
    files: { name: string; seconds: number; sheet: string; copy_no: number; cutters: string[] }[] };
};
export type Recipe = { kind: string } & Record<string, string | number | boolean | null>;
export type Drawing = { id: string; filename: string; units: string; scale_mm: number; revision: number; snags: Snag[]; made: Recipe | null };
export type Role = "cut" | "pocket" | "groove" | "engrave" | "drill" | "leave out";
export const ROLES: [Role, string][] = [["cut", "cut through"], ["pocket", "pocket"], ["groove", "groove"], ["engrave", "engrave"], ["drill", "drill"], ["leave out", "leave out"]];
export type HealItem = { id: string; rows: [number, number, number][]; closed: boolean };
export type HealLine = { id: string; says: string; count: number; before: number; after: number; deviation: number; applied: boolean; items: HealItem[] };
export type Reading = {
  drawing: string; how: { units: string; join: number; refit: number; scale: number; bridge: number; roles: Record<string, Role>; chosen: Record<string, boolean> };
  healing: HealLine[]; layers: { name: string; lines: number; colour: string; role: Role; why: string }[]; made: Recipe | null;
};
export type Narrow = { width: number; x: number; y: number } | null;
export type Picture = { box: [number, number, number, number]; contours: { name: string; d: string }[]; features: Feature[]; area: number };
export type Judgement = {
  inside_radius: number | null; sharp_inside: number; web: Narrow; slot: Narrow;
  reaches: { cutter: string; name: string; diameter: number; blocked: string[]; left_over: number; patches: XY[][] }[];
  corners: { contour: string; x: number; y: number; angle: number; inside: boolean }[];
  alterations: { says: string; removed_mm2: number; value: Record<string, unknown> }[];
  versions: { drawing_revision: number; note: string; picture: Picture }[];
};
export type Drawn = { parts: ({ name: string; quantity: number; size: XY } & Picture)[]; dimensions: { name: string; mm: number; from: XY; to: XY }[]; notes: string[] };
export type MadeKinds = { fonts: string[]; recipes: { kind: string; title: string; defaults: Recipe; schema: Record<string, { enum?: string[]; anyOf?: unknown[]; type?: string; description?: string }> }[] };
export type Compared = {
  file: string; drawing: string; revision: number; effects: { setup: string; layout: [string, string]; stops: string[] }[];
  parts: { id: string; name: string; state: "same" | "changed" | "missing" | "new"; old: Picture | null; new: Picture | null; area_mm2: XY; choices: string[]; lost: string[] }[];
};
export type Job = {
  id: string; name: string; revision: number; says: string; can_undo: boolean; can_redo: boolean; orders: { id: string; name: string }[];
  drawings: Drawing[]; parts: Part[]; setups: Setup[];
};
export type JobLine = { id: string; name: string; revision: number; changed: string };
export type Library = { machine: Machine[]; material: Material[]; cutter: Cutter[]; stock: (Stock & { material: string })[] };
export type NestState = {
  state: "none" | "waiting" | "running" | "accepted" | "outdated" | "failed"; message?: string; steps?: number; elapsed?: number; seconds?: number;
  curve?: [number, number, number][]; limit?: number; found?: number;
  best?: { placements: { part: string; copy: number; sheet: string; sheet_copy: number; x: number; y: number; rotation: number; mirrored: boolean }[] };
};
export type ProofSheet = {
  sheet: string; copy_no: number; moves: number; seconds: number; cut_length: number; rapid_length: number;
  lowest: [number, number, number] | null; highest: [number, number, number] | null; snags: Snag[];
};

export type Station = "parts" | "stock" | "nest" | "cuts" | "prove" | "yield" | "release";
export const STATIONS: { id: Station; title: string; rules: string[] }[] = [
  { id: "parts", title: "Parts", rules: ["intake", "parts"] },
  { id: "stock", title: "Stock & table", rules: ["stock", "table"] },
  { id: "nest", title: "Nest", rules: ["nest"] },
  { id: "cuts", title: "Cuts & hold", rules: ["cuts", "holding", "choice", "cutters"] },
  { id: "prove", title: "Prove", rules: ["proof"] },
  { id: "yield", title: "Yield", rules: [] },
  { id: "release", title: "Release", rules: [] },
];

export const clock = (s: number) => {
  const all = Math.round(s), h = Math.floor(all / 3600), m = Math.floor((all % 3600) / 60), r = String(all % 60).padStart(2, "0");
  return h ? `${h}:${String(m).padStart(2, "0")}:${r}` : `${m}:${r}`;
};
export const placeOf = (p: { x: number; y: number; rotation: number; mirrored: boolean }) =>
  `translate(${p.x} ${p.y}) rotate(${p.rotation})${p.mirrored ? " scale(-1 1)" : ""}`;
