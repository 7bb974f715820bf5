import type { Material } from "../api/model";
import { QuantityToken } from "../shared/Tokens";
import { Line } from "./shelf";

/** What a material costs to cut, and how fast an edge may run in it. */
export function MaterialForces({ m, set }: { m: Material; set: (f: Partial<Material>) => void }) {
  return (
    <>
      <Line what="energy to cut">
        <QuantityToken
          of="energy"
          label="specific cutting energy"
          value={m.in_force?.energy ?? 0}
          house={m.specific_energy === null}
          onCommit={(v) => set({ specific_energy: v || null, energy_source: "shop's own" })}
          onHouse={() => set({ specific_energy: null, energy_source: "" })}
        />{" "}
        <span className="label">{m.in_force?.energy_source}</span>
      </Line>
      <Line what="edge speed">
        <QuantityToken
          of="edge"
          label="least edge speed"
          value={m.in_force?.speed[0] ?? 0}
          least={0.1}
          house={!m.surface_speed}
          onCommit={(v) => set({ surface_speed: [v, m.in_force!.speed[1]], speed_source: "shop's own" })}
          onHouse={() => set({ surface_speed: null, speed_source: "" })}
        />{" "}
        to{" "}
        <QuantityToken
          of="edge"
          label="most edge speed"
          value={m.in_force?.speed[1] ?? 0}
          least={0.1}
          house={!m.surface_speed}
          onCommit={(v) => set({ surface_speed: [m.in_force!.speed[0], v], speed_source: "shop's own" })}
          onHouse={() => set({ surface_speed: null, speed_source: "" })}
        />{" "}
        <span className="label">{m.in_force?.speed_source}</span>
      </Line>
    </>
  );
}
