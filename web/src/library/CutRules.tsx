import { Choice, LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { ByFamily, num, type Of, WordByFamily } from "./ofRules";
import { Line } from "./shelf";

/** How deep, how the cutter goes in, which way round. */
export function PassRules({ of }: { of: Of }) {
  return (
    <>
      <Line what="depth per pass" rule="step_down">
        <Choice
          label="school"
          value={String(of.rules.step_down ?? "by material")}
          options={[
            ["by material", "by material: the softer the deeper"],
            ["one diameter", "never more than one diameter"],
            ["half diameter", "half a diameter: cautious"],
          ]}
          onPick={(step_down) => of.set({ step_down })}
        />
        , excess of{" "}
        <NumberToken
          label="accepted excess"
          value={num(of, "accepted_excess")}
          scale={100}
          unit=" %"
          onCommit={(accepted_excess) => of.set({ accepted_excess })}
        />{" "}
        accepted
      </Line>
      <ByFamily of={of} what="diameters a pass" k="step_factor" rule="step_down" unit=" D" />
      <Line what="roughers" rule="roughing_double">
        <Choice
          label="roughing cutters"
          value={of.rules.roughing_double === false ? "no" : "yes"}
          options={[
            ["yes", "two diameters, whatever the school"],
            ["no", "by the school"],
          ]}
          onPick={(v) => of.set({ roughing_double: v === "yes" })}
        />
      </Line>
      <Line what="plunge" rule="plunge">
        <Choice
          label="plunge rule"
          value={String(of.rules.plunge ?? "half the feed")}
          options={[
            ["half the feed", "half the feed"],
            ["third of the feed", "a third of the feed"],
            ["fixed", "a fixed plunge"],
          ]}
          onPick={(plunge) => of.set({ plunge })}
        />
        {of.rules.plunge === "fixed" && (
          <>
            {" "}
            of{" "}
            <QuantityToken
              of="feed"
              digits={2}
              label="fixed plunge"
              value={num(of, "plunge_fixed")}
              onCommit={(plunge_fixed) => of.set({ plunge_fixed })}
            />
          </>
        )}
        ; ramps{" "}
        <LengthToken
          label="ramp length"
          mm={num(of, "ramp_length")}
          onCommit={(ramp_length) => of.set({ ramp_length })}
        />{" "}
        long
      </Line>
      <WordByFamily
        of={of}
        what="entry"
        k="entry"
        options={[
          ["ramp", "ramp"],
          ["zigzag", "to and fro"],
          ["helix", "spiral"],
          ["plunge", "plunge"],
        ]}
      />
      <WordByFamily
        of={of}
        what="roughing"
        k="rough_direction"
        options={[
          ["climb", "climb"],
          ["conventional", "conventional"],
        ]}
      />
      <WordByFamily
        of={of}
        what="finishing"
        k="finish_direction"
        options={[
          ["climb", "climb"],
          ["conventional", "conventional"],
        ]}
      />
      <ByFamily of={of} what="left by roughing" k="side_allowance" mm />
      <ByFamily of={of} what="overshoot" k="overshoot" mm />
      <ByFamily of={of} what="pecks" k="peck" unit=" D" digits={1} />
      <ByFamily of={of} what="V bit, a pass" k="carve_step" mm />
    </>
  );
}

/** What a fluid jet starts from where a job does not say. */
export function JetRules({ of }: { of: Of }) {
  return (
    <Line what="edge of a jet" rule="jet_level">
      quality{" "}
      <NumberToken
        label="edge quality of a jet"
        value={num(of, "jet_level")}
        onCommit={(jet_level) => of.set({ jet_level: Math.round(jet_level) })}
      />
      , 1 parted only to 5 finest
    </Line>
  );
}

/** How pockets are cleared, and what a depth not drawn means. */
export function PocketRules({ of }: { of: Of }) {
  return (
    <>
      <Line what="pockets" rule="step_over">
        step-over{" "}
        <NumberToken
          label="step-over"
          value={num(of, "step_over")}
          scale={100}
          unit=" %"
          onCommit={(step_over) => of.set({ step_over })}
        />
        , walls at{" "}
        <NumberToken
          label="wall feed"
          value={num(of, "wall_feed")}
          scale={100}
          unit=" %"
          onCommit={(wall_feed) => of.set({ wall_feed })}
        />{" "}
        of the feed, corners at{" "}
        <NumberToken
          label="corner feed"
          value={num(of, "corner_feed")}
          scale={100}
          unit=" %"
          onCommit={(corner_feed) => of.set({ corner_feed })}
        />
      </Line>
      <Line what="depth not drawn" rule="undrawn_depth">
        <Choice
          label="depth not drawn"
          value={of.rules.undrawn_depth ? "half" : "ask"}
          options={[
            ["ask", "ask"],
            ["half", "half the sheet"],
          ]}
          onPick={(v) => of.set({ undrawn_depth: v === "half" ? 0.5 : null })}
        />
        ; engraving{" "}
        <LengthToken
          label="engraving depth"
          mm={num(of, "engraving_depth")}
          onCommit={(engraving_depth) => of.set({ engraving_depth })}
        />
      </Line>
    </>
  );
}

/** What stands between parts, which holes are bored, how far a cutter may bend. */
export function WebRules({ of }: { of: Of }) {
  return (
    <>
      <Line what="between parts" near="web skeleton kerf spacing" rule="between">
        <Choice
          label="between parts"
          value={String(of.rules.between ?? "one kerf")}
          options={[
            ["one kerf", "one kerf: saves material, for vacuum"],
            ["skeleton", "a skeleton: what tabs hold on to"],
          ]}
          onPick={(between) => of.set({ between })}
        />
        , web <LengthToken label="web" mm={num(of, "web")} onCommit={(web) => of.set({ web })} />
      </Line>
      <Line what="round holes" near="bore helix" rule="bore_upto">
        bored up to{" "}
        <NumberToken
          label="bore up to"
          value={num(of, "bore_upto")}
          digits={1}
          unit=" D"
          onCommit={(bore_upto) => of.set({ bore_upto })}
        />
      </Line>
      <Line what="bend of a cutter" near="deflection" rule="deflection_limit">
        not questioned up to{" "}
        <LengthToken
          label="bend of the cutter"
          mm={num(of, "deflection_limit")}
          digits={3}
          onCommit={(deflection_limit) => of.set({ deflection_limit })}
        />
      </Line>
    </>
  );
}
