import { useState, type ReactNode } from "react";

import { post, useLibrary } from "../../api/edits";
import type { Changes, Cutter, Entry, On, Operation, Setup, StepKind, StepPlan } from "../../api/model";
import { NewCutter } from "../../library/NewCutter";
import { Choice, LengthToken, NumberToken, QuantityToken, Why } from "../../shared/Tokens";
import { bare, length, useUnit, type Unit } from "../../shared/lengths";

export const FEATURE: Record<On, string> = {
  outlines: "Outlines",
  holes: "Holes",
  "round holes": "Round holes",
  pockets: "Pockets",
  grooves: "Grooves",
  engravings: "Engraving",
  drillings: "Drilling",
};
const VERB: Record<StepKind, string> = {
  profile: "Follow",
  pocket: "Clear",
  groove: "Run along the line",
  drill: "Drill",
  bore: "Bore along a helix",
  chamfer: "Break the edge",
  face: "Take the face down",
  "v-carve": "Carve along the middle",
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
};
const ENTRIES: [Entry, string][] = [
  ["ramp", "ramps in"],
  ["zigzag", "ramps to and fro"],
  ["helix", "spirals down"],
  ["plunge", "plunges"],
];

export const speed = (mmMin: number, unit: Unit) =>
  unit === "mm"
    ? `${(mmMin / 1000).toFixed(mmMin < 1000 ? 2 : 1)} m/min`
    : `${(mmMin / 25.4).toFixed(0)} in/min`;
const why = (p: StepPlan | undefined, what: string) => p?.why.find(([k]) => k === what)?.[1];

export type Change = (fields: Changes, cutters?: Cutter[]) => void;
type Props = {
  step: Operation;
  setup: Setup;
  plan?: StepPlan;
  subject?: string;
  change: Change;
  onFeeds?: () => void;
  tools?: ReactNode;
  tabs?: ReactNode;
};

/** An operation as a sentence. Every underlined word or number is changed where it stands; hovering a number says which rule made it. */
export function Sentence({ step, setup, plan, subject, change, onFeeds, tools, tabs }: Props) {
  const { unit } = useUnit();
  const family = setup.material.family,
    cutter = setup.cutters.find((c) => c.id === step.cutter),
    rules = setup.rules as unknown as Record<string, never>;
  const library = useLibrary().data,
    [making, setMaking] = useState(false),
    [wrong, setWrong] = useState("");
  const shop = (library?.cutter ?? []).filter(
    (c) => suits(step.kind, c) && !setup.cutters.some((k) => k.id === c.id),
  );
  // a cutter of the shop comes into the job with this edit; one without feeds for the material gets the middle of its window
  const bring = (id: string) =>
    post<Cutter>(`/library/cutter/${encodeURIComponent(id)}/feeds`, { material: setup.material.id })
      .then((c) => {
        setWrong("");
        change({ cutter: id }, [c]);
      })
      .catch((e: Error) => setWrong(e.message));
  const able = setup.cutters.filter((c) => c.id === step.cutter || suits(step.kind, c)),
    reached = setup.reached[step.id];
  const houseEntry = (rules["entry"] as Record<string, Entry>)?.[family] ?? "ramp",
    entry = step.entry ?? houseEntry;
  const through = step.kind === "profile" && step.on !== "pockets" && step.depth === null;
  const words: ReactNode[] = [];
  const say = (node: ReactNode) =>
    words.push(
      <span key={words.length}>
        {words.length ? ", " : ""}
        {node}
      </span>,
    );
  say(
    <>
      <b className="font-semibold">{subject ?? VERB[step.kind]}</b>
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
    </>,
  );
  say(
    <>
      with{" "}
      <Choice
        wide
        label={`Cutter for ${step.on}`}
        value={step.cutter}
        options={[
          ...(cutter ? able : [{ id: step.cutter, name: "a cutter that is gone" } as Cutter, ...able]).map(
            (c): [string, string] => [c.id, c.name],
          ),
          ...shop.map((c): [string, string] => [`shop:${c.id}`, `${c.name}, from the shop`]),
          ["new:", "a new cutter ..."],
        ]}
        onPick={(id) =>
          id === "new:"
            ? setMaking(true)
            : id.startsWith("shop:")
              ? bring(id.slice(5))
              : change({ cutter: id })
        }
        why={
          cutter &&
          `T${cutter.number}, ${cutter.kind}, ${length(cutter.diameter, unit)} across, ${cutter.flutes} flute${cutter.flutes === 1 ? "" : "s"}, edge ${length(cutter.cutting_length, unit)}`
        }
      />
    </>,
  );
  if (step.direction && step.kind !== "bore")
    say(
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
      />,
    );
  const passes = plan && (
    <Why text={why(plan, "passes")}>
      <span tabIndex={0} className="num cursor-help underline decoration-dotted underline-offset-2">
        {plan.passes} pass{plan.passes === 1 ? "" : "es"}
      </span>
    </Why>
  );
  if (step.kind === "chamfer")
    say(
      <>
        <LengthToken
          label="width of the chamfer"
          mm={step.width ?? 1}
          onCommit={(width) => change({ width })}
          why={why(plan, "depth")}
        />{" "}
        wide
      </>,
    );
  else if (through)
    say(
      <>
        {passes}
        {passes ? " to " : "to "}
        {plan ? (
          <Why text={why(plan, "depth")}>
            <span tabIndex={0} className="num cursor-help underline decoration-dotted">
              {length(plan.depth, unit)}
            </span>
          </Why>
        ) : (
          "through"
        )}
      </>,
    );
  else
    say(
      <>
        {passes}
        {passes ? " to " : "to "}
        {step.depth !== null || step.kind === "face" ? (
          <LengthToken
            label="depth"
            mm={step.depth ?? 1}
            onCommit={(depth) => change({ depth })}
            onHouse={step.kind === "face" ? undefined : () => change({ depth: null })}
            why={why(plan, "depth")}
          />
        ) : plan ? (
          <LengthToken
            house
            label="depth"
            mm={plan.depth}
            onCommit={(depth) => change({ depth })}
            why={why(plan, "depth")}
          />
        ) : (
          <button className="border-b border-dotted border-ink" onClick={() => change({ depth: 6 })}>
            the drawn depth
          </button>
        )}
      </>,
    );
  if (step.kind === "pocket" || step.kind === "face")
    say(
      <>
        step-over{" "}
        <NumberToken
          label="step-over"
          value={step.step_over ?? Number(rules["step_over"] ?? 0.6)}
          scale={100}
          unit=" %"
          least={2.5}
          house={step.step_over === null}
          onCommit={(v) => change({ step_over: Math.min(0.99, v) })}
          onHouse={() => change({ step_over: null })}
          why={why(plan, "step-over")}
        />
      </>,
    );
  if (step.pattern === "raster")
    say(
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
      </>,
    );
  if (step.kind === "pocket" && step.rest)
    say(
      <Why text="only what the steps before could not reach">
        <span tabIndex={0} className="underline decoration-dotted">
          the rest only
        </span>
      </Why>,
    );
  if ((step.side_allowance ?? 0) > 0)
    say(
      <>
        leaves{" "}
        <LengthToken
          label="left on the wall"
          mm={step.side_allowance!}
          onCommit={(side_allowance) => change({ side_allowance })}
          onHouse={() => change({ side_allowance: 0 })}
        />{" "}
        on the wall
      </>,
    );
  if ((step.floor_allowance ?? 0) > 0)
    say(
      <>
        a skin of{" "}
        <LengthToken
          label="left under the cut"
          mm={step.floor_allowance!}
          onCommit={(floor_allowance) => change({ floor_allowance })}
          onHouse={() => change({ floor_allowance: 0 })}
        />
      </>,
    );
  if (step.kind === "v-carve") {
    const mills = setup.cutters.filter((c) => FLAT.includes(c.kind) && c.feeds[family]);
    say(
      step.depth === null ? (
        <>no flat floor</>
      ) : (
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
      ),
    );
    if (step.below)
      say(
        <>
          reckoned{" "}
          <LengthToken
            label="reckoned from below"
            mm={step.below}
            onCommit={(below) => change({ below })}
            onHouse={() => change({ below: 0 })}
          />{" "}
          down
        </>,
      );
  }
  if (step.kind === "drill")
    say(
      <>
        pecks of{" "}
        <LengthToken
          label="peck"
          mm={
            step.peck ?? ((rules["peck"] as Record<string, number>)?.[family] ?? 1) * (cutter?.diameter ?? 1)
          }
          house={step.peck === null}
          onCommit={(peck) => change({ peck })}
          onHouse={() => change({ peck: null })}
        />
      </>,
    );
  if (step.lead && step.lead !== "none")
    say(
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
      </>,
    );
  else if (["profile", "pocket", "groove"].includes(step.kind))
    say(
      <Choice
        label="entry"
        value={entry}
        options={ENTRIES}
        onPick={(e) => change({ entry: e })}
        why={why(plan, "entry")}
      />,
    );
  if (tabs) say(tabs);
  if (step.z_zero && step.z_zero !== setup.z_zero)
    say(<b className="text-look">Z 0 on the {step.z_zero === "bed" ? "bed" : "top"}, a file of its own</b>);
  return (
    <div className="rule py-1.5" data-step={step.id}>
      <p className="leading-[1.55]">{words}.</p>
      {wrong && (
        <p role="alert" className="text-[13.5px] text-stop">
          {wrong}{" "}
          <button className="underline" onClick={() => setWrong("")}>
            close
          </button>
        </p>
      )}
      {making && (
        <NewCutter
          kinds={KINDS.filter((kind) => suits(step.kind, { kind } as Cutter))}
          setup={setup}
          onMade={(c) => change({ cutter: c.id }, [c])}
          onClose={() => setMaking(false)}
        />
      )}
      {plan && cutter && (
        <p className="mt-0.5 flex flex-wrap items-baseline gap-x-2.5 text-[13px] text-quiet">
          <span>
            <NumberToken
              label="spindle speed"
              value={plan.rpm}
              unit=" rpm"
              house={step.rpm === null}
              onCommit={(rpm) => change({ rpm })}
              onHouse={() => change({ rpm: null })}
              least={1}
              why={why(plan, "rpm")}
            />
          </span>
          <span>
            <QuantityToken
              of="feed"
              label="feed"
              value={plan.feed}
              house={step.feed === null}
              least={0.001}
              onCommit={(feed) => change({ feed: Math.round((feed / step.feed_share) * 1000) / 1000 })}
              onHouse={() => change({ feed: null })}
              why={why(plan, "feed")}
            />
          </span>
          <span className="num">chip {bare(plan.chip, unit, unit === "mm" ? 3 : 4)}</span>
          {reached && reached.seconds > 0 && (
            <Why
              text={`acceleration leaves ${speed(reached.feed, unit)} on average over ${reached.metres.toFixed(1)} m of this path`}
            >
              <span tabIndex={0} className="num cursor-help underline decoration-dotted">
                reaches {speed(reached.feed, unit)}
              </span>
            </Why>
          )}
          {onFeeds && (
            <button className="underline decoration-dotted" onClick={onFeeds}>
              window
            </button>
          )}
        </p>
      )}
      {tools}
    </div>
  );
}

export const KINDS = [
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
const FLAT = [
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
  if (kind === "chamfer") return ["v-bit", "roundover", "point roundover"].includes(c.kind);
  if (kind === "drill") return c.kind === "drill" || FLAT.includes(c.kind);
  if (kind === "groove") return c.kind !== "surfacing" && c.kind !== "drill";
  if (kind === "face") return FLAT.includes(c.kind);
  return FLAT.includes(c.kind) || ["ball", "tapered ball", "bowl"].includes(c.kind);
}

/** What is seldom changed, behind a fold. */
export function StepDetails({
  step,
  setup,
  plan,
  change,
}: {
  step: Operation;
  setup: Setup;
  plan?: StepPlan;
  change: (fields: Changes) => void;
}) {
  const rules = setup.rules as unknown as Record<string, never>,
    family = setup.material.family;
  const bowls = setup.cutters.filter((c) => c.kind === "bowl" && c.id !== step.cutter);
  return (
    <div className="grid gap-1 py-1 text-[14px]">
      {"step_down" in step && step.kind !== "drill" && step.kind !== "chamfer" && step.kind !== "v-carve" && (
        <p>
          At most{" "}
          <LengthToken
            label="depth per pass"
            mm={
              step.step_down ??
              (plan ? Math.max(plan.depth - plan.begins, 0.01) / Math.max(1, plan.passes) : 1)
            }
            house={step.step_down === null}
            onCommit={(step_down) => change({ step_down })}
            onHouse={() => change({ step_down: null })}
            why={plan?.why.find(([k]) => k === "passes")?.[1]}
          />{" "}
          a pass
          {step.kind === "profile" && (
            <>
              ,{" "}
              <Choice
                label="passes"
                value={step.one_pass ? "one" : "rule"}
                options={[
                  ["rule", "by that rule"],
                  ["one", "all in one pass"],
                ]}
                onPick={(v) => change({ one_pass: v === "one" })}
              />
            </>
          )}
          .
        </p>
      )}
      {step.overshoot !== undefined && (
        <p>
          Overshoot{" "}
          <LengthToken
            label="overshoot"
            mm={step.overshoot ?? (rules["overshoot"] as Record<string, number>)?.[family] ?? 0.5}
            house={step.overshoot === null}
            onCommit={(overshoot) => change({ overshoot })}
            onHouse={() => change({ overshoot: null })}
            why="below the sheet: exactly the thickness leaves fuzz, too much ruins the spoilboard"
          />{" "}
          below the sheet.
        </p>
      )}
      {step.ramp_length !== undefined && (
        <p>
          Ramp{" "}
          <LengthToken
            label="ramp length"
            mm={step.ramp_length ?? Number(rules["ramp_length"] ?? 50)}
            house={step.ramp_length === null}
            onCommit={(ramp_length) => change({ ramp_length })}
            onHouse={() => change({ ramp_length: null })}
          />{" "}
          long.
        </p>
      )}
      {step.side_allowance === 0 && (
        <p>
          Leaves{" "}
          <LengthToken
            label="left on the wall"
            mm={0}
            onCommit={(side_allowance) => change({ side_allowance })}
            why={`house rule for roughing in ${family}: ${(rules["side_allowance"] as Record<string, number>)?.[family] ?? 0} mm`}
          />{" "}
          on the wall and{" "}
          <LengthToken
            label="left under the cut"
            mm={step.floor_allowance ?? 0}
            onCommit={(floor_allowance) => change({ floor_allowance })}
          />{" "}
          under the cut.
        </p>
      )}
      {step.kind === "profile" && step.lead === "none" && (
        <p>
          <button
            className="border-b border-dotted border-ink"
            onClick={() => change({ lead: "arc", lead_length: 3 })}
          >
            Arrive sideways on an arc
          </button>
          , which takes room between the parts.
        </p>
      )}
      {step.kind === "profile" && (
        <p>
          In corners{" "}
          <Choice
            label="corners"
            value={step.corners ?? "steady"}
            options={[
              ["steady", "at full feed"],
              ["slow", `slowed to ${Math.round(100 * Number(rules["corner_feed"] ?? 0.5))} %`],
              ["round", "rounded, for a later pass"],
            ]}
            onPick={(corners) => change({ corners })}
          />
          .
        </p>
      )}
      {step.kind === "pocket" && (
        <p>
          <Choice
            label="rest machining"
            value={step.rest ? "rest" : "all"}
            options={[
              ["all", "Clears all of it"],
              ["rest", "Clears only the rest"],
            ]}
            onPick={(v) => change({ rest: v === "rest" })}
          />
          {bowls.length > 0 && (
            <>
              ,{" "}
              <Choice
                label="stairs for a bowl cutter"
                value={step.bowl ?? ""}
                options={[
                  ["", "walls straight"],
                  ...bowls.map((b): [string, string] => [b.id, `stairs for ${b.name}`]),
                ]}
                onPick={(v) => change({ bowl: v || null })}
                why="leaves steps along the wall that follow the bowl cutter's hollow"
              />
            </>
          )}
          .
        </p>
      )}
      {step.kind === "groove" && (
        <p>
          Groove{" "}
          <LengthToken
            label="groove width"
            mm={step.width ?? setup.cutters.find((c) => c.id === step.cutter)?.diameter ?? 6}
            house={step.width === null}
            onCommit={(width) => change({ width })}
            onHouse={() => change({ width: null })}
          />{" "}
          wide.
        </p>
      )}
      {step.kind === "groove" && setup.cutters.find((c) => c.id === step.cutter)?.kind === "v-bit" && (
        <p>
          {step.skin ? (
            <>
              For folding: a skin of{" "}
              <LengthToken
                label="skin under the groove"
                mm={step.skin}
                onCommit={(skin) => change({ skin })}
                onHouse={() => change({ skin: null })}
              />{" "}
              stays, folded by{" "}
              <NumberToken
                label="fold"
                value={step.fold ?? 90}
                unit="°"
                least={1}
                onCommit={(fold) => change({ fold: Math.min(179, fold) })}
              />
              . {plan?.why.find(([k]) => k === "fold")?.[1]}
            </>
          ) : (
            <button className="border-b border-dotted border-ink" onClick={() => change({ skin: 0.8 })}>
              A groove to fold the sheet along
            </button>
          )}
        </p>
      )}
      {step.kind === "v-carve" && (
        <p>
          Passes of at most{" "}
          <LengthToken
            label="depth per pass"
            mm={step.step_down ?? (rules["carve_step"] as Record<string, number>)?.[family] ?? 6}
            house={step.step_down === null}
            onCommit={(step_down) => change({ step_down })}
            onHouse={() => change({ step_down: null })}
            why={why(plan, "passes")}
          />
          ; where there are several the last takes{" "}
          <LengthToken
            label="left for the last pass"
            mm={step.finish ?? 0.2}
            onCommit={(finish) => change({ finish })}
          />
          .{" "}
          {!step.below && (
            <button className="border-b border-dotted border-ink" onClick={() => change({ below: 0.5 })}>
              Reckon from a lower plane
            </button>
          )}{" "}
          {step.depth !== null && (
            <>
              Ridges up to{" "}
              <LengthToken
                label="ridges on the floor"
                mm={step.ridge ?? 0.05}
                onCommit={(ridge) => change({ ridge })}
              />{" "}
              where the bit clears.
            </>
          )}
        </p>
      )}
      {step.kind === "bore" && (
        <p>
          Pitch{" "}
          <LengthToken
            label="pitch"
            mm={step.pitch ?? (setup.cutters.find((c) => c.id === step.cutter)?.diameter ?? 4) / 4}
            house={step.pitch === null}
            onCommit={(pitch) => change({ pitch })}
            onHouse={() => change({ pitch: null })}
          />{" "}
          a turn.
        </p>
      )}
      {step.kind === "chamfer" && (
        <p>
          Axis{" "}
          <LengthToken
            label="axis off the contour"
            mm={step.offset ?? 0.25}
            house={step.offset === null}
            onCommit={(offset) => change({ offset })}
            onHouse={() => change({ offset: null })}
            why="a roundover's point meets the edge about 0.8 mm off the contour"
          />{" "}
          off the contour.
        </p>
      )}
      <p>
        Feed at{" "}
        <NumberToken
          label="share of the feed"
          value={step.feed_share}
          scale={100}
          unit=" %"
          least={2.5}
          onCommit={(v) => change({ feed_share: Math.min(2, v) })}
          why="a closing pass in end grain runs at half to a tenth"
        />
        , plunge{" "}
        <QuantityToken
          of="feed"
          digits={2}
          label="plunge"
          value={plan?.plunge ?? 1000}
          house={step.plunge === null}
          onCommit={(plunge) => change({ plunge })}
          onHouse={() => change({ plunge: null })}
          least={0.001}
          why={plan?.why.find(([k]) => k === "plunge")?.[1]}
        />
        .
      </p>
      <p>
        Z 0{" "}
        <Choice
          label="Z zero"
          value={step.z_zero ?? "setup"}
          options={[
            ["setup", `as the setup: ${setup.z_zero === "bed" ? "bed" : "top of the material"}`],
            ["top", "on the top of the material"],
            ["bed", "on the bed (spoilboard)"],
          ]}
          onPick={(v) => change({ z_zero: v === "setup" ? null : (v as "top" | "bed") })}
          why="another zero gets a file of its own, which says so"
        />
        .
      </p>
    </div>
  );
}
