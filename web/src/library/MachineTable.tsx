import type { Machine } from "../api/model";
import { LengthToken, NumberToken } from "../shared/Tokens";
import { readCorners, useUnit } from "../shared/lengths";
import { Line, TextToken } from "./shelf";
import { corners, boxes, readZones } from "./zones";

/** A machine's table: size, dead areas, vacuum. */
export function MachineTable({ m, set }: { m: Machine; set: (f: Partial<Machine>) => void }) {
  const { unit } = useUnit();
  return (
    <>
      <Line what="table">
        <LengthToken label="table width" mm={m.width} onCommit={(width) => set({ width })} /> x{" "}
        <LengthToken label="table height" mm={m.height} onCommit={(height) => set({ height })} />
        {!m.head && (
          <>
            , Z travel{" "}
            <LengthToken label="Z travel" mm={m.z_travel} onCommit={(z_travel) => set({ z_travel })} />
          </>
        )}
      </Line>
      <Line what="dead areas">
        <TextToken
          label={`dead areas, ${unit}: x, y; x, y for two corners of each`}
          value={m.dead_areas.map((d) => corners(d, unit)).join("; ")}
          onCommit={async (v) => set({ dead_areas: boxes(await readCorners(v, unit)) })}
        />
      </Line>
      {!m.head && <VacuumZones m={m} set={set} />}
      {m.zones.length > 0 && <VacuumPump m={m} set={set} />}
    </>
  );
}

type Props = { m: Machine; set: (f: Partial<Machine>) => void };

function VacuumZones({ m, set }: Props) {
  const { unit } = useUnit();
  return (
    <Line what="vacuum zones">
      <TextToken
        label={`vacuum zones, ${unit}: a line each, name: x, y; x, y`}
        area
        value={m.zones.map((z) => `${z.id}: ${corners(z.rect, unit)}`).join("\n")}
        onCommit={async (v) => set({ zones: await readZones(v, unit) })}
      />
    </Line>
  );
}

function VacuumPump({ m, set }: Props) {
  return (
    <Line what="vacuum pump">
      <NumberToken
        label="deepest vacuum"
        value={m.pump?.pressure ?? 70}
        unit=" kPa"
        least={0.1}
        house={!m.pump}
        onCommit={(pressure) => set({ pump: { pressure, flow: m.pump?.flow ?? 400 } })}
      />
      , free flow{" "}
      <NumberToken
        label="free flow"
        value={m.pump?.flow ?? 400}
        unit=" m³/h"
        least={0.1}
        house={!m.pump}
        onCommit={(flow) => set({ pump: { pressure: m.pump?.pressure ?? 70, flow } })}
      />
      {m.pump ? "" : " (estimated)"}; spoilboard{" "}
      <LengthToken
        label="spoilboard thickness"
        mm={m.spoilboard.thickness}
        onCommit={(thickness) => set({ spoilboard: { ...m.spoilboard, thickness } })}
      />
      , leaks{" "}
      <NumberToken
        label="spoilboard leak"
        value={m.spoilboard.leak}
        digits={1}
        unit=" m³/h per m² and kPa"
        onCommit={(leak) => set({ spoilboard: { ...m.spoilboard, leak } })}
      />
    </Line>
  );
}
