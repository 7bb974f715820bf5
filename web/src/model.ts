/** The documents the API returns, as the screens use them. Lengths mm, times s, angles degrees. */

export type Severity = "stop" | "look" | "note";
export type Remedy = { label: string; command: Record<string, unknown>; trades?: string };
export type Snag = { rule: string; severity: Severity; message: string; where: Record<string, unknown> | null; remedies: Remedy[] };
export type XY = [number, number];

export type Feature = { name: string; kind: string; d: string; depth: number | null; closed: boolean };
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
export type Cutter = {
  id: string; number: number; name: string; kind: string; diameter: number; flutes: number; cutting_length: number; shank: number; tip: number; corner_radius: number; angle: number | null; up_cut: number;
  centre_cutting: boolean; max_depth: number | null; stick_out: number | null; holder: string | null; feeds: Record<string, Feeds>; metres: number; life: number | null; note: string; silhouette?: XY[];
};
export type Tabs = { count: number; width: number; height: number; every: number | null; sloped: boolean };
export type On = "outlines" | "holes" | "round holes" | "pockets" | "grooves" | "engravings" | "drillings";
export type StepKind = "profile" | "pocket" | "groove" | "drill" | "bore" | "chamfer" | "face" | "v-carve";
/** One operation; which of the optional fields count depends on its kind. null: by house rule. */
export type Operation = {
  kind: StepKind; id: string; on: On; cutter: string; rpm: number | null; feed: number | null; plunge: number | null; feed_share: number; step_down: number | null; depth: number | null;
  z_zero: "top" | "bed" | null; note: string; side?: "waste" | "on line"; direction?: "climb" | "conventional"; overshoot?: number | null; ramp_length?: number | null; entry?: Entry | null;
  lead?: "none" | "straight" | "arc"; lead_length?: number; corners?: "steady" | "slow" | "round"; side_allowance?: number; floor_allowance?: number; one_pass?: boolean; tabs?: Tabs | null;
  pattern?: "offset" | "raster"; angle?: number; wall_pass?: boolean; step_over?: number | null; rest?: boolean; bowl?: string | null; width?: number | null; peck?: number | null; pitch?: number | null; offset?: number | null;
  clear?: string | null; below?: number; finish?: number; ridge?: number; skin?: number | null; fold?: number;
};
export type Entry = "ramp" | "zigzag" | "helix" | "plunge";
export type LibraryRecipe = { id: string; name: string; on: On; family: string | null; steps: Operation[]; version: number; why: string; rules: string };
export type StepPlan = {
  operation: string; kind: StepKind; cutter: string; passes: number; depth: number; begins: number; width: number; rpm: number; feed: number; plunge: number; chip: number; speed: number;
  window: [number, number, number, number]; entry: string; lead: number; z_zero: string; length: number; left: number; why: [string, string][];
};
export type Advice = {
  rpm: number; feed: number; plunge: number; chip_load: number; chip_thickness: number; surface_speed: number; window: { chip: XY; chip_source: string; speed: XY; speed_source: string };
  depth: number; width: number; step_down: number; step_reason: string; plunge_reason: string; source: string; energy: number; energy_source: string; removal: number; power: number; available: number | null;
  force: number; bend: number; snags: Snag[]; flutes: number; diameter: number; rpm_range: XY; run_up: number; reached: { length: number; feed: number }[]; silhouette: XY[]; caution: string;
};
export type Machine = {
  id: string; name: string; width: number; height: number; dead_areas: [number, number, number, number][]; zones: { id: string; rect: [number, number, number, number] }[];
  pump: { pressure: number; flow: number } | null; spoilboard: { thickness: number; leak: number }; z_travel: number; rapid: number; z_speed: number | null; top_feed: number | null; acceleration: number; rpm_min: number; rpm_max: number; power: XY[]; slots: number; cooling: string[]; rate_per_hour: number;
  clearance: number; retract: number; change_seconds: number; home: string; dialect: { name: string; inch: boolean; tool_change: boolean };
};
export type Material = {
  id: string; name: string; family: "wood" | "plastic" | "aluminium" | "steel"; sort: string; density: number; density_source: string; price_m2: number; grained: boolean; caution: string;
  specific_energy: number | null; energy_source: string; surface_speed: XY | null; speed_source: string; windows: { kinds: string[]; rows: [number, number, number][]; source: string }[]; in_force?: { energy: number; energy_source: string; speed: XY; speed_source: string };
};
export type Holder = { id: string; name: string; nose: number; length: number; collets: number[] };
export type ContourPlan = {
  contour: string; operation: string; cutter: string; inside: boolean; passes: number; depth: number; step_down: number; tabs: [number, number, number][];
  by_hand: boolean; omitted: boolean; reason: string; on: On; own_steps: boolean; steps: StepPlan[];
};
export type CutCell = { name: string; trial: boolean; outline: boolean; force: number; piece: string; contour: string; cutter: string; operation: string; kind: StepKind; frees: boolean; inside: boolean; begins: number; seconds: number; passes: number; tabs: number; start: XY };
export type SheetPlan = { sheet: string; copy_no: number; seconds: number; cut_length: number; rapid_length: number; changes: [number, string][]; cuts: CutCell[]; hold: SheetHold | null; refused: { cut: string; before: string; why: string }[] };
/** What holds the pieces of a sheet through its program; rows are (cut, times the load). */
export type SheetHold = {
  pieces: Record<string, [number, number | null][]>; sheet: [number, number | null][]; marks: [number, "stop" | "thin" | "drop" | "loose", string][]; freed: Record<string, number>; loose: Record<string, number>;
  margin: number; lowest: { ratio: number | null; piece: string; cut: number; kind: string } | null; pressure: XY | null;
};
export type Held = { cut: number; kind: string; side: number; up: number; load: number; lift: number; ratio: number | null; area: number; holds: { kind: string; says: string; count: number; side: number; up: number; at: XY[] }[] };
export type WhatHolds = Held & { pressure: number | null; joined: boolean; freed: number | null; loose: number | null; cuts_left: number; timeline: (Held & { at: number; says: string })[] };
export type OrderBy = "insides first" | "piece by piece" | "small parts first" | "heat spread";
export type Figures = { seconds: number; travel: number; changes: number; lowest: number | null; stops: number };
export type OrderLine = Figures & { order_by: OrderBy; why: string; now: boolean };
export type WayLine = Figures & { way: string; why: string; now: boolean; tabs: number; hand_seconds: number };
export type MovedCut = { sheet: string; sheet_copy: number; cut: string; before: string };
export type Fixing = { kind: "clamp" | "cam" | "pin" | "tape" | "pod" | "fixture board" | "cover"; id: string; x: number; y: number; width: number; height: number; proud: number; force?: number | null; seal?: number };
export type HoldRules = { friction: Record<string, number>; tab_strength: Record<string, number>; screw_shear: number; screw_pull: number; nail_shear: number; nail_pull: number; clamp_force: number; cam_force: number; margin: number; chatter: number; tab_seconds: number; skin_seconds_m: number; skin: Record<string, number> };
export type SheetYield = {
  sheet: string; copy_no: number; pieces: number; net_area: number; sheet_area: number; utilisation: number; used_length: number; remnant: XY | null;
  cut_length: number; rapid_length: number; seconds: number; material_cost: number; machine_cost: number; net_mass: number;
};
export type JobYield = {
  sheets: SheetYield[]; pieces: number; net_area: number; sheet_area: number; utilisation: number; cut_length: number; seconds: number;
  material_cost: number; machine_cost: number; bound: number; unpriced: ("material" | "machine")[];
};
export type Screw = { id: string; x: number; y: number; head: number; proud: number; kind: "screw" | "nail"; sheet: string | null; sheet_copy: number; marked: boolean };
export type Rules = { name: string; step_down: string; web: number; tabs: Record<string, Tabs>; overshoot: Record<string, number>; between: "one kerf" | "skeleton"; hold: HoldRules };
export type Setup = {
  id: string; name: string; machine: Machine; material: Material; cutters: Cutter[]; rules: Rules & Record<string, unknown>; stock: Stock[];
  datum: "lower left" | "centre"; z_zero: "top" | "bed"; sheet_at: XY; zones_on: string[]; screws: Screw[]; operations: Operation[]; spacing: number; kerf: number; fixings: Fixing[]; order_by: OrderBy; moved_cuts: MovedCut[]; trial: string[]; insides_apart: boolean; own_tabs: Record<string, [number, number, number][]>;
  layout: { state: "none" | "fits" | "adrift" | "broken"; unplaced: Record<string, number>; at_fault: string[]; bound: number; engine: string; steps: number; last: number; yield: number; same: { sheet: string; copies: number[] }[] };
  kept: Kept[]; guillotine: boolean; same_layouts: boolean; allow_in_holes: boolean;
  pieces: Piece[]; snags: Snag[]; contours: Record<string, ContourPlan[]>; paths: Record<string, Record<string, { contour: string; cutter: string; operation: string; kind: StepKind; d: string }[]>>;
  recipes: LibraryRecipe[]; reached: Record<string, { metres: number; seconds: number; feed: number }>; differs: Record<string, string[]>;
  news: { kind: string; name: string; changes: string[]; command: Record<string, unknown> }[];
  sheets: SheetPlan[]; cutters_used: string[]; yields: JobYield; tabs_policy: Tabs;
  release: { contains: { part: string; pieces: number }[]; cuts: number; sheets: number; leaves_out: string[]; stops: string[];
    files: { name: string; seconds: number; sheet: string; copy_no: number; cutters: string[]; z_zero: string }[] };
};
export type Recipe = { kind: string } & Record<string, string | number | boolean | null>;
export type Drawing = { id: string; filename: string; units: string; scale_mm: number; revision: number; snags: Snag[]; made: Recipe | null };
export type Role = "cut" | "pocket" | "groove" | "engrave" | "drill" | "leave out";
export const ROLES: [Role, string][] = [["cut", "cut through"], ["pocket", "pocket"], ["groove", "groove"], ["engrave", "engrave"], ["drill", "drill"], ["leave out", "leave out"]];
export type HealItem = { id: string; rows: [number, number, number][]; closed: boolean };
export type HealLine = { id: string; says: string; count: number; before: number; after: number; deviation: number; applied: boolean; items: HealItem[] };
export type Reading = {
  drawing: string; how: { units: string; join: number; refit: number; scale: number; bridge: number; roles: Record<string, Role>; chosen: Record<string, boolean>; board: number | null };
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
  parts: { id: string; name: string; state: "same" | "mirrored" | "changed" | "missing" | "new"; old: Picture | null; new: Picture | null; area_mm2: XY; choices: string[]; lost: string[]; added: string[] }[];
};
export type Job = {
  id: string; name: string; revision: number; says: string; can_undo: boolean; can_redo: boolean; untried: boolean; orders: { id: string; name: string }[];
  drawings: Drawing[]; parts: Part[]; setups: Setup[]; steps: { part: string; on: On; contour: string; steps: Operation[] }[]; choices: { part: string; contour: string; start: XY | null; line: string | null }[];
};
export type JobLine = { id: string; name: string; revision: number; changed: string };
export type Library = { machine: Machine[]; material: Material[]; cutter: Cutter[]; holder: Holder[]; recipe: LibraryRecipe[]; stock: (Stock & { material: string })[]; rules: (Record<string, unknown> & { id: string })[]; known: Material[] };
export type NestState = {
  state: "none" | "waiting" | "running" | "accepted" | "kept" | "outdated" | "failed"; message?: string; ahead?: number; steps?: number; elapsed?: number; seconds?: number;
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
  { id: "cuts", title: "Cuts & hold", rules: ["plan", "cuts", "feeds", "carve", "holding", "order", "choice", "cutters"] },
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

export type CarveStep = StepPlan & { operation: string };
export type CarvingView = { part: string; name: string; size: XY; steps: CarveStep[]; shapes: number; places: { rule: string; at: XY[] }[]; snags: Snag[]; length: number; family: string; digest: string };
export type InlayView = {
  cutters: string[]; snags: Snag[];
  name: string; y: number; range: XY; depth: number; gap: number; plane: number; saw: number; bit: XY; x: number[]; socket: number[]; plug: number[]; plug_board: XY;
  mating: { overlap: number; deepest_overlap: number; floor_gap: number; least_gap: number; saw: number; slack: number };
};
export type FoldView = { depth: number; width: number; closes: number; allowance: number; setback: number; deduction: number; says: string };

export type Reading3 = { x: number; y: number; z: number };
export type Board = { id: string; name: string; kind: "spoilboard" | "board"; machine: string | null; x: number; y: number; width: number; height: number; thickness: number; least: number; screw_head: number | null; grain: "x" | "y" | null; due_metres: number; due_depth: number; dead: KeepOut[] };
export type KeepOut = { x0: number; y0: number; x1: number; y1: number; height: number; margin: number };
export type Surfacing = {
  cutter_id: string | null; cutter: number; cutter_name: string; number: number; step_over: number; depth: number; passes: number; finish_step_over: number; finish_depth: number; pattern: "rows" | "rows+perimeter" | "spiral"; ways: "both ways" | "climb" | "conventional";
  along: "x" | "y" | "longer" | "grain"; inwards: boolean; overrun: number; start: number; only_touched: boolean; feed: number; plunge: number; rpm: number; touch: "high spot" | "middle" | "lower left corner"; tram: number;
};
export type Bench = { id: string; board: Board; how: Surfacing; readings: Reading3[]; simulated: boolean; tilt_across: number; tilt_along: number; ridge_limit: number; pitch: number; square: number | null; wanted: number | null; overlap: number };
export type LedgerEntry = { number: number; made: string; entry: { kind: "surfaced" | "through-cut" | "zero" | "read" | "replaced" | "reversed"; removed: number; metres: number; score: number; flat: number | null; says: string; reverses: number | null } };
export type StepOver = { share: number; spacing: number; rows: number; length: number; seconds: number; ridge: number };
export type BenchView = {
  news: { name: string; changes: string[]; how: Partial<Surfacing> } | null;
  bench: Bench; machine: Machine | null; skipped: string[]; cut_length: number; seconds: number; deepest: number; uncut: XY[][]; worth: number | null; choices: StepOver[]; snags: Snag[]; ledger: LedgerEntry[];
  layers: { name: string; depth: number; takes: number; step_over: number; rows: number; cut_length: number; seconds: number; touched: number | null; runs: { d: string; outside: boolean; start: XY }[] }[];
  state: { thickness: number; removed: number; since_zero: number; metres: number; score: number; flat: number | null; cover: number | null; due: boolean; passes_left: number | null };
  flatness: { tilt: XY; droop: XY; rest: number; range: number; least: number; high: Reading3; low: Reading3; x: XY; y: XY; z: number[][] } | null;
  shifts: { number: number; start: number; end: number; mark: number }[]; squares: XY; faces: { first: number; after_first: number; second: number; after_second: number; says: string[]; wrong?: undefined } | { wrong: string } | null;
};
export type BenchLine = { id: string; name: string; kind: Board["kind"]; machine: string | null; square: number | null; width: number; height: number; thickness: number; due: boolean; metres: number; score: number };

/** Fields of a thing that change; nested ones and items of a list by their number are merged by the server. */
export type Changes = Record<string, unknown>;
