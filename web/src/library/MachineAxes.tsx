import type { Machine } from "../api/model";
import { LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { Line } from "./shelf";

type Props = { m: Machine; set: (f: Partial<Machine>) => void };
type Axis = "y" | "z";

/** What its axes do each on its own, how its controller follows, and the dust shoe that travels with the spindle. */
export function MachineAxes({ m, set }: Props) {
  const speed = (axis: Axis, key: "y_speed" | "z_speed") => (
    <QuantityToken
      of="feed"
      digits={1}
      label={`top speed of ${axis.toUpperCase()}`}
      value={m[key] ?? m.rapid}
      least={0.01}
      onCommit={(v) => set({ [key]: v === m.rapid ? null : v })}
    />
  );
  const acceleration = (axis: Axis, key: "y_acceleration" | "z_acceleration") => (
    <QuantityToken
      of="acceleration"
      label={`acceleration of ${axis.toUpperCase()}`}
      value={m[key] ?? m.acceleration}
      least={1}
      onCommit={(v) => set({ [key]: v === m.acceleration ? null : v })}
    />
  );
  return (
    <>
      <Line what="Y and Z">
        Y {speed("y", "y_speed")} at {acceleration("y", "y_acceleration")}; Z {speed("z", "z_speed")} at{" "}
        {acceleration("z", "z_acceleration")}
      </Line>
      <Line what="follows">
        jerk{" "}
        <QuantityToken
          of="jerk"
          label="jerk, 0 for none"
          value={m.jerk ?? 0}
          least={0}
          onCommit={(v) => set({ jerk: v || null })}
          why="how fast the controller changes acceleration; 0: at once, or not known"
        />
        {m.jerk ? "" : " (not limited)"}, takes{" "}
        <NumberToken
          label="lines a second, 0 for not known"
          value={m.blocks ?? 0}
          least={0}
          onCommit={(v) => set({ blocks: v || null })}
        />{" "}
        lines a second{m.blocks ? "" : " (not known)"}
      </Line>
      <Line what="dust shoe">
        <Shoe m={m} set={set} />
      </Line>
    </>
  );
}

function Shoe({ m, set }: Props) {
  const shoe = m.shoe;
  if (!shoe)
    return (
      <>
        none that goes down with the spindle{" "}
        <button className="key !py-0" onClick={() => set({ shoe: { diameter: 120, lower: 0 } })}>
          It has one
        </button>
      </>
    );
  return (
    <>
      <LengthToken
        label="diameter of the dust shoe"
        mm={shoe.diameter}
        onCommit={(diameter) => set({ shoe: { ...shoe, diameter } })}
      />{" "}
      across, its rigid edge{" "}
      <LengthToken
        label="how far the dust shoe reaches below the nut"
        mm={shoe.lower}
        onCommit={(lower) => set({ shoe: { ...shoe, lower } })}
      />{" "}
      below the nut's end{" "}
      <button className="key !py-0" onClick={() => set({ shoe: null })}>
        Take it off
      </button>
    </>
  );
}
