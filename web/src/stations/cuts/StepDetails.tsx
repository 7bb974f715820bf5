import type { Changes, Operation, Setup, StepPlan } from "../../api/model";
import { Choice, LengthToken, NumberToken, QuantityToken } from "../../shared/Tokens";
import { why } from "./stepWords";

type Props = { step: Operation; setup: Setup; plan?: StepPlan; change: (fields: Changes) => void };

/** What is seldom changed of a step, behind a fold. */
export const StepDetails = (props: Props) => (
  <div className="grid gap-1 py-1 text-small">
    <DepthPerPass {...props} />
    <Overshoot {...props} />
    <Ramp {...props} />
    <Leaves {...props} />
    <ArriveOnArc {...props} />
    <Corners {...props} />
    <Clears {...props} />
    <Folding {...props} />
    <CarvedPasses {...props} />
    <Pitch {...props} />
    <Axis {...props} />
    <FeedAndPlunge {...props} />
    <Zero {...props} />
  </div>
);

const cutterOf = (setup: Setup, step: Operation) => setup.cutters.find((c) => c.id === step.cutter);

function DepthPerPass({ step, plan, change }: Props) {
  if (!("step_down" in step && step.kind !== "drill" && step.kind !== "chamfer" && step.kind !== "v-carve"))
    return null;
  return (
    <p>
      At most{" "}
      <LengthToken
        label="depth per pass"
        mm={
          step.step_down ?? (plan ? Math.max(plan.depth - plan.begins, 0.01) / Math.max(1, plan.passes) : 1)
        }
        house={step.step_down === null}
        onCommit={(step_down) => change({ step_down })}
        onHouse={() => change({ step_down: null })}
        why={why(plan, "passes")}
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
  );
}

function Overshoot({ step, setup, change }: Props) {
  if (!(step.overshoot !== undefined)) return null;
  return (
    <p>
      Overshoot{" "}
      <LengthToken
        label="overshoot"
        mm={step.overshoot ?? setup.rules.overshoot[setup.material.family] ?? 0.5}
        house={step.overshoot === null}
        onCommit={(overshoot) => change({ overshoot })}
        onHouse={() => change({ overshoot: null })}
        why="below the sheet: exactly the thickness leaves fuzz, too much ruins the spoilboard"
      />{" "}
      below the sheet.
    </p>
  );
}

function Ramp({ step, setup, change }: Props) {
  if (!(step.ramp_length !== undefined)) return null;
  return (
    <p>
      Ramp{" "}
      <LengthToken
        label="ramp length"
        mm={step.ramp_length ?? setup.rules.ramp_length}
        house={step.ramp_length === null}
        onCommit={(ramp_length) => change({ ramp_length })}
        onHouse={() => change({ ramp_length: null })}
      />{" "}
      long.
    </p>
  );
}

function Leaves({ step, setup, change }: Props) {
  if (!(step.side_allowance === 0)) return null;
  return (
    <p>
      Leaves{" "}
      <LengthToken
        label="left on the wall"
        mm={0}
        onCommit={(side_allowance) => change({ side_allowance })}
        why={`house rule for roughing in ${setup.material.family}: ${setup.rules.side_allowance[setup.material.family] ?? 0} mm`}
      />{" "}
      on the wall and{" "}
      <LengthToken
        label="left under the cut"
        mm={step.floor_allowance ?? 0}
        onCommit={(floor_allowance) => change({ floor_allowance })}
      />{" "}
      under the cut.
    </p>
  );
}

function ArriveOnArc({ step, change }: Props) {
  if (!(step.kind === "profile" && step.lead === "none")) return null;
  return (
    <p>
      <button
        className="border-b border-dotted border-ink"
        onClick={() => change({ lead: "arc", lead_length: 3 })}
      >
        Arrive sideways on an arc
      </button>
      , which takes room between the parts.
    </p>
  );
}

function Corners({ step, setup, change }: Props) {
  if (!(step.kind === "profile")) return null;
  return (
    <p>
      In corners{" "}
      <Choice
        label="corners"
        value={step.corners ?? "steady"}
        options={[
          ["steady", "at full feed"],
          ["slow", `slowed to ${Math.round(100 * setup.rules.corner_feed)} %`],
          ["round", "rounded, for a later pass"],
        ]}
        onPick={(corners) => change({ corners })}
      />
      .
    </p>
  );
}

function Clears({ step, setup, change }: Props) {
  const bowls = setup.cutters.filter((c) => c.kind === "bowl" && c.id !== step.cutter);
  if (step.kind === "profile")
    return (
      <p>
        <Choice
          label="rest machining"
          value={step.rest ? "rest" : "all"}
          options={[
            ["all", "Runs along all of it"],
            ["rest", "Runs only where the steps before could not reach"],
          ]}
          onPick={(v) => change({ rest: v === "rest" })}
        />
        .
      </p>
    );
  if (!(step.kind === "pocket")) return null;
  return (
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
  );
}

function Folding({ step, setup, plan, change }: Props) {
  if (!(step.kind === "groove" && cutterOf(setup, step)?.kind === "v-bit")) return null;
  return (
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
          . {why(plan, "fold")}
        </>
      ) : (
        <button className="border-b border-dotted border-ink" onClick={() => change({ skin: 0.8 })}>
          A groove to fold the sheet along
        </button>
      )}
    </p>
  );
}

function CarvedPasses({ step, setup, plan, change }: Props) {
  if (!(step.kind === "v-carve")) return null;
  return (
    <p>
      Passes of at most{" "}
      <LengthToken
        label="depth per pass"
        mm={step.step_down ?? setup.rules.carve_step[setup.material.family] ?? 6}
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
  );
}

function Pitch({ step, setup, change }: Props) {
  if (!(step.kind === "bore")) return null;
  return (
    <p>
      Pitch{" "}
      <LengthToken
        label="pitch"
        mm={step.pitch ?? (cutterOf(setup, step)?.diameter ?? 4) / 4}
        house={step.pitch === null}
        onCommit={(pitch) => change({ pitch })}
        onHouse={() => change({ pitch: null })}
      />{" "}
      a turn.
    </p>
  );
}

function Axis({ step, change }: Props) {
  if (!(step.kind === "chamfer")) return null;
  return (
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
  );
}

function FeedAndPlunge({ step, plan, change }: Props) {
  return (
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
        why={why(plan, "plunge")}
      />
      .
    </p>
  );
}

function Zero({ step, setup, change }: Props) {
  return (
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
  );
}
