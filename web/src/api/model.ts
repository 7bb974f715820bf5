import type { components } from "./schema";

/** Types that the server answers with are generated from it (npm run types). */
type S = components["schemas"];
/** The documents the API returns, as the screens use them. Lengths mm, times s, angles degrees. */

export type Family = "wood" | "plastic" | "aluminium" | "steel";
export type Severity = "stop" | "look" | "note";
export type Remedy = S["Remedy"];
export type Snag = S["Snag"];
/** Everything that may be asked of a job. */
export type Command = Asked<S["Edit"]["command"] | S["Ask"]["command"]>;
/** A command names what it is about; what it does not name stays as it is. */
type Asked<C> = C extends { kind: string } ? Pick<C, "kind"> & Partial<Omit<C, "kind">> : never;
/** A step, a fixing and an alteration as a command has them: with the fields of its kind. */
export type Step = NonNullable<Extract<Command, { kind: "set-steps" }>["steps"]>[number];
export type AskedFixing = NonNullable<Extract<Command, { kind: "set-fixings" }>["fixings"]>[number];
export type Alteration = NonNullable<Extract<Command, { kind: "alter-part" }>["add"]>;
export type HoldWay = NonNullable<Extract<Command, { kind: "set-hold" }>["way"]>;
export type XY = [number, number];
export type Reckoning = S["ReckoningDocument"];
export type ReckoningField = S["ReckoningField"];
export type ReckoningMark = S["ReckoningMark"];
export type Reckoned = S["ReckonedDocument"];

export type Feature = S["FeatureDrawn"];
export type Long = NonNullable<S["SetupDocument"]["long"]>;
export type AlongTable = NonNullable<Long["along"]>;
export type Turned = NonNullable<S["SetupDocument"]["turned"]>;
export type Contour = S["OutlineDrawn"];
export type Part = S["PartDocument"];
export type Piece = S["PieceDocument"];
/** Where X0 Y0 lies. */
export type Datum = S["SetupDocument"]["datum"];
export type Stock = S["StockDocument"];
export type Flaw = S["Flaw"];
export type KeptPiece = S["KeptPiece"];
export type Kept = S["KeptDocument"];
export type Feeds = S["Feeds"];
export type Cutter = S["Cutter"] & { silhouette?: XY[] };
export type Tabs = S["Tabs"];
export type On =
  "outlines" | "holes" | "round holes" | "pockets" | "grooves" | "engravings" | "drillings" | "reliefs";
export type StepKind =
  | "profile"
  | "pocket"
  | "groove"
  | "drill"
  | "bore"
  | "chamfer"
  | "face"
  | "v-carve"
  | "relief rough"
  | "relief finish";
/** One operation; which of the optional fields count depends on its kind. null: by house rule. */
export type Operation = {
  kind: StepKind;
  id: string;
  on: On;
  cutter: string;
  rpm: number | null;
  feed: number | null;
  plunge: number | null;
  feed_share: number;
  step_down: number | null;
  depth: number | null;
  z_zero: "top" | "bed" | null;
  note: string;
  side?: "waste" | "on line";
  direction?: "climb" | "conventional";
  overshoot?: number | null;
  ramp_length?: number | null;
  entry?: Entry | null;
  lead?: "none" | "straight" | "arc";
  lead_length?: number;
  corners?: "steady" | "slow" | "round";
  side_allowance?: number;
  floor_allowance?: number;
  one_pass?: boolean;
  tabs?: Tabs | null;
  pattern?: "offset" | "raster" | "rings" | "spiral";
  allowance?: number;
  over?: number | null;
  cusp?: number | null;
  ways?: "both ways" | "one way";
  round_last?: boolean;
  follow_relief?: boolean;
  angle?: number;
  wall_pass?: boolean;
  step_over?: number | null;
  rest?: boolean;
  bowl?: string | null;
  width?: number | null;
  peck?: number | null;
  pitch?: number | null;
  offset?: number | null;
  clear?: string | null;
  below?: number;
  finish?: number;
  ridge?: number;
  skin?: number | null;
  fold?: number;
};
export type Entry = "ramp" | "zigzag" | "helix" | "plunge";
export type LibraryRecipe = {
  id: string;
  name: string;
  on: On;
  family: Family | null;
  steps: Operation[];
  version: number;
  why: string;
  rules: string;
};
export type StepPlan = S["StepPlan"];
export type Advice = S["AdviceDocument"];
export type Machine = S["Machine"];
export type Head = S["HeadSetting"];
export type Material = S["Material"] & {
  in_force?: { energy: number; energy_source: string; speed: XY; speed_source: string };
};
export type Holder = S["Holder"];
export type ContourPlan = S["ContourDocument"];
export type CutCell = S["CutDocument"];
export type SheetPlan = S["SheetDocument"];
/** What holds the pieces of a sheet through its program; rows are (cut, times the load). */
export type SheetHold = S["SheetHolding"];
export type Held = {
  cut: number;
  kind: string;
  side: number;
  up: number;
  load: number;
  lift: number;
  ratio: number | null;
  area: number;
  holds: { kind: string; says: string; count: number; side: number; up: number; at: XY[] }[];
};
export type WhatHolds = S["WhatHolds"];
export type OrderBy = S["OrderLine"]["order_by"];
export type OperatorStop = S["OperatorStop"];
export type Figures = {
  seconds: number;
  travel: number;
  changes: number;
  lowest: number | null;
  stops: number;
};
export type OrderLine = S["OrderLine"];
export type WayLine = S["WayLine"];
export type FaceOrder = S["FaceOrder"];
export type MovedCut = S["MovedCut"];
export type Fixing = {
  kind: "clamp" | "cam" | "pin" | "tape" | "pod" | "fixture board" | "cover";
  id: string;
  x: number;
  y: number;
  width: number;
  height: number;
  proud: number;
  force?: number | null;
  seal?: number;
  thickness?: number;
};
export type HoldRules = S["HoldRules"];
export type SheetYield = S["SheetYield"];
export type JobYield = S["JobYield"];
export type Screw = S["Screw"];
export type Rules = S["HouseRules"];
export type Setup = {
  route: S["Stand"][];
  /** How its sheets are turned over, where they are cut from both faces. */
  turned?: Turned | null;
  /** Whether and how its stock is moved along the table. */
  long?: Long | null;
  id: string;
  name: string;
  machine: Machine;
  material: Material;
  cutters: Cutter[];
  rules: Rules;
  stock: Stock[];
  datum: Datum;
  touch_off: string;
  z_zero: "top" | "bed";
  sheet_at: XY;
  /** A second point read on the lower edge of a sheet that lies crooked. */
  edge_at: XY | null;
  /** Degrees counter-clockwise that it lies turned. */
  turn: number;
  zones_on: string[];
  screws: Screw[];
  operations: Operation[];
  spacing: number;
  kerf: number;
  fixings: Fixing[];
  order_by: OrderBy;
  moved_cuts: MovedCut[];
  trial: string[];
  insides_apart: boolean;
  files_by: "job" | "sheet" | "cutter" | "operation";
  stops: OperatorStop[];
  /** Per cent of the feeds at which the first sheet is run. */
  first_run: number;
  own_tabs: Record<string, [number, number, number][]>;
  layout: {
    state: "none" | "fits" | "out of date" | "at fault";
    /** In a few words. */
    fault: string;
    unplaced: Record<string, number>;
    at_fault: string[];
    bound: number;
    engine: string;
    steps: number;
    last: number;
    yield: number;
    same: { sheet: string; copies: number[] }[];
  };
  kept: Kept[];
  guillotine: boolean;
  same_layouts: boolean;
  allow_in_holes: boolean;
  pieces: Piece[];
  snags: Snag[];
  contours: Record<string, ContourPlan[]>;
  paths: Record<
    string,
    Record<string, { contour: string; cutter: string; operation: string; kind: StepKind; d: string }[]>
  >;
  recipes: LibraryRecipe[];
  reached: Record<string, { metres: number; seconds: number; feed: number }>;
  differs: Record<string, string[]>;
  news: { kind: string; name: string; changes: string[]; command: Command }[];
  sheets: SheetPlan[];
  cutters_used: string[];
  yields: JobYield;
  tabs_policy: Tabs;
  release: {
    contains: { part: string; pieces: number }[];
    cuts: number;
    /** Files that it goes out as. */
    count: number;
    sheets: number;
    leaves_out: string[];
    stops: string[];
    files: {
      name: string;
      seconds: number;
      sheet: string;
      copy_no: number;
      cutters: string[];
      z_zero: string;
    }[];
  };
};
export type Recipe = { kind: string } & Record<string, string | number | boolean | null>;
export type Drawing = {
  id: string;
  filename: string;
  units: string;
  scale_mm: number;
  revision: number;
  snags: Snag[];
  made: Recipe | null;
};
export type Role = "cut" | "pocket" | "groove" | "engrave" | "drill" | "leave out";
export const ROLES: [Role, string][] = [
  ["cut", "cut through"],
  ["pocket", "pocket"],
  ["groove", "groove"],
  ["engrave", "engrave"],
  ["drill", "drill"],
  ["leave out", "leave out"],
];
export type HealItem = S["HealItem"];
export type HealLine = S["HealLine"];
export type Reading = S["ReadingDocument"];
export type FinishChoice = S["FinishChoice"];
export type FinishWeighed = S["FinishWeighed"];
export type Narrow = { width: number; x: number; y: number } | null;
export type Picture = S["Picture"];
export type Judgement = S["JudgementDocument"];
export type Drawn = S["DrawnDocument"];
export type MadeKinds = {
  fonts: string[];
  recipes: {
    kind: string;
    title: string;
    defaults: Recipe;
    schema: Record<string, { enum?: string[]; anyOf?: unknown[]; type?: string; description?: string }>;
  }[];
};
export type Compared = S["ComparedDocument"];
export type Job = {
  tag: string;
  rest?: S["Rest"] | null;
  id: string;
  kind: JobLine["kind"];
  name: string;
  revision: number;
  says: string;
  can_undo: boolean;
  can_redo: boolean;
  untried: boolean;
  orders: { id: string; name: string }[];
  mates: S["Mate"][];
  drawings: Drawing[];
  parts: Part[];
  setups: Setup[];
  steps: { part: string; on: On; contour: string; steps: Operation[] }[];
  choices: { part: string; contour: string; start: XY | null; line: string | null }[];
};
export type JobLine = S["JobLine"];
export type Library = {
  machine: Machine[];
  material: Material[];
  cutter: Cutter[];
  holder: Holder[];
  head: Head[];
  recipe: LibraryRecipe[];
  stock: (Stock & { material: string })[];
  rules: (Record<string, unknown> & { id: string })[];
  known: Material[];
};
export type NestState = {
  state: "none" | "waiting" | "running" | "accepted" | "kept" | "outdated" | "failed";
  message?: string;
  ahead?: number;
  steps?: number;
  elapsed?: number;
  seconds?: number;
  curve?: [number, number, number][];
  limit?: number;
  found?: number;
  best?: {
    placements: {
      part: string;
      copy: number;
      sheet: string;
      sheet_copy: number;
      x: number;
      y: number;
      rotation: number;
      mirrored: boolean;
    }[];
  };
};
export type ProofSheet = S["ProofDocument"];

export type Station = S["Stand"]["station"];
export type Mark = S["Stand"]["mark"];
export const STATIONS: { id: Station; title: string }[] = [
  { id: "parts", title: "Parts" },
  { id: "stock", title: "Stock & table" },
  { id: "nest", title: "Nest" },
  { id: "cuts", title: "Cuts & hold" },
  { id: "prove", title: "Prove" },
  { id: "yield", title: "Yield" },
  { id: "release", title: "Release" },
];

/** How the layout stands: of one at fault, the fault itself. */
export const layoutWords = ({ state, fault }: Setup["layout"]) =>
  state === "none" ? "not nested" : state === "at fault" ? fault : state;

/** What is said of matters that a station is about. */
export const snagsOf = (station: Station, setup: Setup) => {
  const { matters } = setup.route.find((s) => s.station === station)!;
  return setup.snags.filter((s) => matters.includes(s.rule.split(".")[0]));
};

export type RulesTrial = S["RulesTrial"];
export type RevisionsCompared = S["RevisionsCompared"];
export type RevisionSide = S["RevisionSide"];
export type SheetDrawn = S["SheetDrawn"];
export type DeskJob = S["DeskJob"];
export type Desk = S["DeskDocument"];
export type Attention = S["Attention"];
export type RunningSearch = S["RunningSearch"];
export type AskedAgain = S["AskedAgain"];

export const clock = (s: number) => {
  const all = Math.round(s),
    h = Math.floor(all / 3600),
    m = Math.floor((all % 3600) / 60),
    r = String(all % 60).padStart(2, "0");
  return h ? `${h}:${String(m).padStart(2, "0")}:${r}` : `${m}:${r}`;
};
export const placeOf = (p: { x: number; y: number; rotation: number; mirrored: boolean }) =>
  `translate(${p.x} ${p.y}) rotate(${p.rotation})${p.mirrored ? " scale(-1 1)" : ""}`;

export type CarveStep = StepPlan & { operation: string };
export type CarvingView = {
  part: string;
  name: string;
  size: XY;
  steps: CarveStep[];
  shapes: number;
  places: { rule: string; at: XY[] }[];
  snags: Snag[];
  length: number;
  family: string;
  digest: string;
};
export type InlayView = {
  cutters: string[];
  snags: Snag[];
  name: string;
  y: number;
  range: XY;
  depth: number;
  gap: number;
  plane: number;
  saw: number;
  bit: XY;
  x: number[];
  socket: number[];
  plug: number[];
  plug_board: XY;
  mating: {
    overlap: number;
    deepest_overlap: number;
    floor_gap: number;
    least_gap: number;
    saw: number;
    slack: number;
  };
};
export type FoldView = {
  depth: number;
  width: number;
  closes: number;
  allowance: number;
  setback: number;
  deduction: number;
  says: string;
};

export type Reading3 = { x: number; y: number; z: number };
export type Board = S["Board"];
export type KeepOut = S["KeepOut"];
export type BoardHeld = NonNullable<Board["held"]>;
export type Surfacing = S["Surfacing"];
export type Bench = S["SurfaceSetup"];
export type LedgerEntry = S["LedgerLine"];
export type StepOver = S["Choice"];
export type WholeWay = S["Way"];
export type BenchView = S["BoardDocument"];
export type BenchLine = S["BoardLine"];
export type TableRun = S["TableDocument"];
export type TableLine = S["TableLine"];
export type SheetChoice = S["SheetChoice"];

/** Fields of a thing that change; nested ones and items of a list by their number are merged by the server. */
export type Changes = Record<string, unknown>;
export type UnderPointer = S["UnderPointer"];
/** Something that stands where the drawing wants nothing. */
export type Left = S["LeftDocument"];
/** The cutter at a moment of the tape, and its way about it. */
export type CutMoment = S["MomentDocument"];
/** What takes away what stands. */
export type LeftRemedies = S["LeftRemedies"];
export type JointFitted = S["JointDocument"];
export type BoardsTogether = S["TogetherDocument"];
export type FinishLine = S["FinishLine"];
export type StockTyped = S["TypedStockDocument"];
/** A section through a sheet as it is cut. */
export type CutSection = S["SectionDocument"];
/** What every moment of a tape asks of cutter, spindle and machine. */
export type LoadDocument = S["LoadDocument"];
/** Who looked at a sheet's proof. */
export type SheetRecord = S["SheetRecord"];
/** The verdict on a sheet, and the record that somebody looked. */
export type SheetVerdict = S["SheetVerdict"];
