/** The phrases of a step's sentence: each says one thing of it, or nothing. */
import type { ReactNode } from "react";

import type { Changes, Cutter, Entry, Operation, Setup, StepPlan } from "../../api/model";
import { Choice, LengthToken, NumberToken, Told, Why } from "../../shared/Tokens";
import { length, type Unit } from "../../shared/lengths";
import { flat, VERB, why } from "./stepWords";

export type Change = (fields: Changes, cutters?: Cutter[]) => void;
export type Said = {
  step: Operation;
  setup: Setup;
  plan?: StepPlan;
  unit: Unit;
  change: Change;
  /** What is cut, in place of the kind of step. */
  subject?: string;
};
export type Phrase = (s: Said) => ReactNode;

const ENTRIES: [Entry, string][] = [
  ["ramp", "ramps in"],
  ["zigzag", "ramps to and fro"],
  ["helix", "spirals down"],
  ["plunge", "plunges"],
];

const subject: Phrase = ({ step, change, subject: own }) => (
  <>
    <b className="font-semibold">{own ?? VERB[step.kind]}</b>
    {step.kind === "profile" ? (
      <>
        {" "}
        <Choice
          label="side"
          value={step.side ?? "waste"}
          options={[
            [
              "waste",
              step.on === "outlines" ? "outside" : step.on === "pockets" ? "along the walls" : "inside",
            ],
            ["on line", "on the line"],
          ]}
          onPick={(side) => change({ side })}
        />
      </>
    ) : null}
    {step.kind === "pocket" ? (
      <>
        {" "}
        by{" "}
        <Choice
          label="pattern"
          value={step.pattern ?? "offset"}
          options={[
            ["offset", "rings"],
            ["raster", "rows"],
          ]}
          onPick={(pattern) => change({ pattern })}
          why="rings keep one direction along every wall; rows leave the quieter floor along the grain"
        />
      </>
    ) : null}
  </>
);

const direction: Phrase = ({ step, plan, change }) =>
  step.direction &&
  step.kind !== "bore" && (
    <Choice
      label="direction"
      value={step.direction}
      options={[
        ["climb", "climb"],
        ["conventional", "conventional"],
      ]}
      onPick={(direction) => change({ direction })}
      why={
        why(plan, "direction") ?? "climb for finish and cutter life; conventional throws metal chips clear"
      }
    />
  );

const passes = (plan: StepPlan | undefined) =>
  plan && (
    <Why text={why(plan, "passes")}>
      <Told>
        {plan.passes} pass{plan.passes === 1 ? "" : "es"}
      </Told>
    </Why>
  );
const through = (step: Operation) => step.kind === "profile" && step.on !== "pockets" && step.depth === null;

const chamferWidth: Phrase = ({ step, plan, change }) =>
  step.kind === "chamfer" && (
    <>
      <LengthToken
        label="width of the chamfer"
        mm={step.width ?? 1}
        onCommit={(width) => change({ width })}
        why={why(plan, "depth")}
      />{" "}
      wide
    </>
  );

const throughDepth: Phrase = ({ step, plan, unit }) =>
  through(step) && (
    <>
      {passes(plan)}
      {plan ? " to " : "to "}
      {plan ? (
        <Why text={why(plan, "depth")}>
          <Told>{length(plan.depth, unit)}</Told>
        </Why>
      ) : (
        "through"
      )}
    </>
  );

const depth: Phrase = (s) =>
  !through(s.step) &&
  s.step.kind !== "chamfer" && (
    <>
      {passes(s.plan)}
      {s.plan ? " to " : "to "}
      {ownDepth(s)}
    </>
  );

function ownDepth({ step, plan, change, unit }: Said): ReactNode {
  if (step.on === "reliefs")
    return (
      <Why text={why(plan, "depth")}>
        <Told>{plan ? length(plan.depth, unit) : "its lowest place"}</Told>
      </Why>
    );
  if (plan && (why(plan, "line width") || step.skin))
    return (
      <LengthToken
        label="depth"
        mm={plan.depth}
        onCommit={(mm) => change({ depth: mm })}
        onHouse={() => change({ depth: null })}
        why={why(plan, "line width") ?? why(plan, "fold")}
      />
    );
  if (step.depth !== null || step.kind === "face")
    return (
      <LengthToken
        label="depth"
        mm={step.depth ?? 1}
        onCommit={(mm) => change({ depth: mm })}
        onHouse={step.kind === "face" ? undefined : () => change({ depth: null })}
        why={why(plan, "depth")}
      />
    );
  if (plan)
    return (
      <LengthToken
        house
        label="depth"
        mm={plan.depth}
        onCommit={(mm) => change({ depth: mm })}
        why={why(plan, "depth")}
      />
    );
  return (
    <button className="border-b border-dotted border-ink" onClick={() => change({ depth: 6 })}>
      the drawn depth
    </button>
  );
}

const lineWidth: Phrase = ({ step, setup, plan, change }) => {
  if (step.kind !== "groove" || step.skin) return null;
  const across = setup.cutters.find((c) => c.id === step.cutter)?.diameter ?? 1;
  return (
    <>
      <LengthToken
        label="line width"
        mm={step.width ?? plan?.width ?? across}
        house={step.width === null}
        onCommit={(width) => change({ width })}
        onHouse={() => change({ width: null })}
        why={why(plan, "line width") ?? why(plan, "depth")}
      />{" "}
      wide
    </>
  );
};

const stepOver: Phrase = ({ step, setup, plan, change }) =>
  (step.kind === "pocket" || step.kind === "face") && (
    <>
      step-over{" "}
      <NumberToken
        label="step-over"
        value={step.step_over ?? setup.rules.step_over}
        scale={100}
        unit=" %"
        least={2.5}
        house={step.step_over === null}
        onCommit={(v) => change({ step_over: Math.min(0.99, v) })}
        onHouse={() => change({ step_over: null })}
        why={why(plan, "step-over")}
      />
    </>
  );

const rows: Phrase = ({ step, change }) =>
  step.on !== "reliefs" &&
  step.pattern === "raster" && (
    <>
      at{" "}
      <NumberToken
        label="angle"
        value={step.angle ?? 0}
        unit="°"
        least={-180}
        onCommit={(angle) => change({ angle })}
      />
      {step.kind === "pocket" && (
        <>
          {" "}
          <Choice
            label="wall pass"
            value={step.wall_pass === false ? "no" : "yes"}
            options={[
              ["yes", "walls closed"],
              ["no", "walls left"],
            ]}
            onPick={(v) => change({ wall_pass: v === "yes" })}
          />
        </>
      )}
    </>
  );

const restOnly: Phrase = ({ step }) =>
  (step.kind === "pocket" || step.kind === "profile") &&
  step.rest && (
    <Why text="only what the steps before could not reach">
      <Told>the rest only</Told>
    </Why>
  );

const wallLeft: Phrase = ({ step, change }) =>
  (step.side_allowance ?? 0) > 0 && (
    <>
      leaves{" "}
      <LengthToken
        label="left on the wall"
        mm={step.side_allowance!}
        onCommit={(side_allowance) => change({ side_allowance })}
        onHouse={() => change({ side_allowance: 0 })}
      />{" "}
      on the wall
    </>
  );

const floorLeft: Phrase = ({ step, change }) =>
  (step.floor_allowance ?? 0) > 0 && (
    <>
      a skin of{" "}
      <LengthToken
        label="left under the cut"
        mm={step.floor_allowance!}
        onCommit={(floor_allowance) => change({ floor_allowance })}
        onHouse={() => change({ floor_allowance: 0 })}
      />
    </>
  );

const carvedFloor: Phrase = ({ step, setup, plan, change }) => {
  if (step.kind !== "v-carve") return null;
  if (step.depth === null) return "no flat floor";
  const mills = setup.cutters.filter((c) => flat(c) && c.feeds[setup.material.family]);
  return (
    <Choice
      label="cutter for the floor"
      value={step.clear ?? ""}
      options={[
        ["", "floor by the bit alone"],
        ...mills.map((m): [string, string] => [m.id, `floor cleared with ${m.name}`]),
      ]}
      onPick={(v) => change({ clear: v || null })}
      why={why(plan, "floor") ?? "the end mill takes what it reaches, the bit walls and corners"}
    />
  );
};

const carvedBelow: Phrase = ({ step, change }) =>
  step.kind === "v-carve" &&
  !!step.below && (
    <>
      reckoned{" "}
      <LengthToken
        label="reckoned from below"
        mm={step.below}
        onCommit={(below) => change({ below })}
        onHouse={() => change({ below: 0 })}
      />{" "}
      down
    </>
  );

/** Whether a carving or an engraved line is reckoned from the face or from the relief under it. */
const followsRelief: Phrase = ({ step, setup, change }) => {
  if (!("follow_relief" in step) || step.on === "grooves") return null;
  if (!step.follow_relief && !setup.snags.some((s) => s.rule === "relief.not-followed")) return null;
  return (
    <Choice
      label="reckoned from"
      value={step.follow_relief ? "relief" : "face"}
      options={[
        ["face", "reckoned from the face"],
        ["relief", "following the relief under it"],
      ]}
      onPick={(v) => change({ follow_relief: v === "relief" })}
      why="on a relief as deep below its surface as on the level below the face"
    />
  );
};

/** The angle of rows over a relief. */
const RowsAt = ({ angle, change }: { angle: number; change: Change }) => (
  <>
    at{" "}
    <NumberToken
      label="angle of the rows"
      value={angle}
      unit="°"
      onCommit={(v) => change({ angle: v })}
      why="from the part's X; along the grain"
    />
    ,{" "}
  </>
);

/** How a relief is roughed: its ways, what is left on it, whether it ends round the rim. */
const roughsRelief: Phrase = ({ step, plan, change }) => {
  if (step.kind !== "relief rough") return null;
  return (
    <>
      in{" "}
      <Choice
        label="pattern"
        value={step.pattern === "rings" ? "rings" : "raster"}
        options={[
          ["raster", "rows"],
          ["rings", "rings"],
        ]}
        onPick={(pattern) => change({ pattern })}
        why="rows along the grain; rings on round work"
      />{" "}
      {step.pattern !== "rings" && <RowsAt angle={step.angle ?? 0} change={change} />}
      <NumberToken
        label="step-over"
        value={step.step_over ?? 0.45}
        scale={100}
        digits={1}
        unit=" %"
        onCommit={(v) => change({ step_over: Math.min(0.99, v) })}
        why={why(plan, "step-over")}
      />{" "}
      of the cutter, leaving{" "}
      <LengthToken
        label="left for finishing"
        mm={step.allowance ?? 1}
        onCommit={(allowance) => change({ allowance })}
        why="normal to the surface"
      />
      ,{" "}
      <Choice
        label="along the rim"
        value={step.round_last === false ? "none" : "round"}
        options={[
          ["round", "then once round its rim"],
          ["none", "without going round its rim"],
        ]}
        onPick={(v) => change({ round_last: v === "round" })}
        why="on every level, when its rows are done: what their ends left standing"
      />
    </>
  );
};

/** How close the ways of a finishing pass lie: evenly, or by the ridges that they leave. */
const HowClose = ({ step, plan, change }: Pick<Parameters<Phrase>[0], "step" | "plan" | "change">) => (
  <>
    <Choice
      label="how close"
      value={step.cusp ? "cusp" : "share"}
      options={[
        ["share", "evenly spaced"],
        ["cusp", "by ridges"],
      ]}
      onPick={(v) => change({ cusp: v === "cusp" ? 0.02 : null })}
      why="by ridges: closed up on slopes, where evenly spaced ways leave higher ones"
    />{" "}
    {step.cusp ? (
      <>
        <LengthToken
          label="height of ridges"
          mm={step.cusp}
          digits={3}
          onCommit={(cusp) => change({ cusp })}
          why={why(plan, "step-over")}
        />{" "}
        high
      </>
    ) : (
      <>
        <NumberToken
          label="step-over"
          value={step.step_over ?? 0.1}
          scale={100}
          digits={1}
          unit=" %"
          onCommit={(v) => change({ step_over: Math.min(0.99, v) })}
          why={why(plan, "step-over")}
        />{" "}
        of the tip
      </>
    )}
  </>
);

/** How a relief is finished: its ways, how close they lie, and where they go. */
const finishesRelief: Phrase = ({ step, plan, change }) => {
  if (step.kind !== "relief finish") return null;
  return (
    <>
      by{" "}
      <Choice
        label="pattern"
        value={step.pattern ?? "raster"}
        options={[
          ["raster", "rows"],
          ["rings", "rings"],
          ["spiral", "a spiral"],
        ]}
        onPick={(pattern) => change({ pattern })}
        why="rows along the grain; rings or a spiral on round work"
      />{" "}
      {(step.pattern ?? "raster") === "raster" && (
        <>
          <RowsAt angle={step.angle ?? 0} change={change} />
          <Choice
            label="which way rows run"
            value={step.ways ?? "both ways"}
            options={[
              ["both ways", "both ways"],
              ["one way", "one way"],
            ]}
            onPick={(ways) => change({ ways })}
            why="one way cuts every row alike, and lifts back in between"
          />
          ,{" "}
        </>
      )}
      <HowClose {...{ step, plan, change }} />,{" "}
      <Choice
        label="where it goes"
        value={step.over == null ? "all" : "rest"}
        options={[
          ["all", "all over"],
          ["rest", "only where more is left"],
        ]}
        onPick={(v) => change({ over: v === "rest" ? 0.2 : null })}
        why="a smaller tip after a larger one goes only where that left something"
      />
      {step.over != null && (
        <>
          {" "}
          than <LengthToken label="left before" mm={step.over} onCommit={(over) => change({ over })} />
        </>
      )}
    </>
  );
};

const pecks: Phrase = ({ step, setup, change }) => {
  if (step.kind !== "drill") return null;
  const across = setup.cutters.find((c) => c.id === step.cutter)?.diameter ?? 1;
  return (
    <>
      pecks of{" "}
      <LengthToken
        label="peck"
        mm={step.peck ?? (setup.rules.peck[setup.material.family] ?? 1) * across}
        house={step.peck === null}
        onCommit={(peck) => change({ peck })}
        onHouse={() => change({ peck: null })}
      />
    </>
  );
};

const entry: Phrase = ({ step, setup, plan, change }) => {
  if (step.on === "reliefs") return null;
  if (step.lead && step.lead !== "none")
    return (
      <>
        <Choice
          label="lead-in"
          value={step.lead}
          options={[
            ["arc", "arrives on an arc"],
            ["straight", "arrives on a slant"],
            ["none", "no lead-in"],
          ]}
          onPick={(lead) => change({ lead })}
          why={why(plan, "entry")}
        />{" "}
        of{" "}
        <LengthToken
          label="lead length"
          mm={plan?.lead || (step.lead_length ?? 5)}
          onCommit={(lead_length) => change({ lead_length })}
        />
      </>
    );
  if (!["profile", "pocket", "groove"].includes(step.kind)) return null;
  const house = setup.rules.entry[setup.material.family] ?? "ramp";
  return (
    <Choice<Entry>
      label="entry"
      value={step.entry ?? house}
      options={ENTRIES}
      onPick={(e) => change({ entry: e })}
      why={why(plan, "entry")}
    />
  );
};

const ownZero: Phrase = ({ step, setup }) =>
  step.z_zero &&
  step.z_zero !== setup.z_zero && (
    <b className="text-look">Z 0 on the {step.z_zero === "bed" ? "bed" : "top"}, a file of its own</b>
  );

/** Before and after the words about its cutter, in order. */
export const FIRST = subject;
export const PHRASES: Phrase[] = [
  direction,
  chamferWidth,
  throughDepth,
  depth,
  lineWidth,
  stepOver,
  rows,
  restOnly,
  wallLeft,
  floorLeft,
  carvedFloor,
  carvedBelow,
  followsRelief,
  roughsRelief,
  finishesRelief,
  pecks,
  entry,
];
export const LAST = ownZero;
