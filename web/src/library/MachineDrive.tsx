import { useState } from "react";

import type { Machine } from "../api/model";
import { LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { DialectEditor } from "./DialectEditor";
import { MachineFolder } from "./MachineFolder";
import { Line } from "./shelf";

type Props = { m: Machine; set: (f: Partial<Machine>) => void };

/** How fast a machine's axes and spindle go, and what the spindle gives. */
export function MachineDrive({ m, set }: Props) {
  const fast = (label: string, v: number, key: keyof Machine) => (
    <QuantityToken
      of="feed"
      digits={1}
      label={label}
      value={v}
      least={0.01}
      onCommit={(x) => set({ [key]: x })}
    />
  );
  return (
    <>
      <Line what="speeds">
        up to {fast("top speed", m.rapid, "rapid")}, feed to{" "}
        {fast("fastest feed", m.top_feed ?? m.rapid, "top_feed")};{" "}
        <QuantityToken
          of="acceleration"
          label="acceleration"
          value={m.acceleration}
          least={1}
          onCommit={(acceleration) => set({ acceleration })}
        />
        ; corners rounded by up to{" "}
        <LengthToken
          label="corners rounded by"
          mm={m.deviation}
          digits={3}
          onCommit={(deviation) => set({ deviation })}
          why="the more the controller may round a corner, the faster it goes through; see its setting for contour or path deviation"
        />
      </Line>
      <Line what="spindle">
        <NumberToken label="slowest" value={m.rpm_min} least={1} onCommit={(rpm_min) => set({ rpm_min })} />{" "}
        to{" "}
        <NumberToken
          label="fastest"
          value={m.rpm_max}
          least={1}
          unit=" rpm"
          onCommit={(rpm_max) => set({ rpm_max })}
        />
      </Line>
      <Line what="power">
        {m.power.length ? (
          <PowerCurve points={m.power} />
        ) : (
          <span className="text-quiet">not entered: power is not judged</span>
        )}{" "}
        {m.power.map((p, i) => (
          <span key={i} className="mr-2 whitespace-nowrap">
            <NumberToken
              label={`speed ${i + 1}`}
              value={p[0]}
              onCommit={(v) => set({ power: m.power.map((x, k) => (k === i ? [v, x[1]] : x)) })}
            />
            :{" "}
            <NumberToken
              label={`power ${i + 1}`}
              value={p[1]}
              digits={2}
              unit=" kW"
              onCommit={(v) => set({ power: m.power.map((x, k) => (k === i ? [x[0], v] : x)) })}
            />
          </span>
        ))}
        <button
          className="key !py-0"
          onClick={() =>
            set({
              power: [
                ...m.power,
                m.power.length
                  ? [m.power[m.power.length - 1][0] + 2000, m.power[m.power.length - 1][1]]
                  : [m.rpm_max, 2.2],
              ],
            })
          }
        >
          + a point
        </button>
      </Line>
    </>
  );
}

/** What a machine changes, cools, clears and reads. */
export function MachineOrders({ m, set, save }: Props & { save: (f: Partial<Machine>) => Promise<boolean> }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      {!m.head && <SpindleOrders m={m} set={set} />}
      <Line what="controller" near="dialect program words rs-274 hpgl">
        {m.dialect.name}{" "}
        <button className="key !py-0" onClick={() => setOpen(true)}>
          How it reads
        </button>
        {open && <DialectEditor m={m} save={(dialect) => save({ dialect })} close={() => setOpen(false)} />}
      </Line>
      <MachineFolder m={m} />
    </>
  );
}

/** What only a spindle has: a changer, cooling, heights. */
function SpindleOrders({ m, set }: Props) {
  return (
    <>
      <Line what="changer">
        <NumberToken
          label="places in the changer"
          value={m.slots}
          onCommit={(slots) => set({ slots: Math.round(slots) })}
        />{" "}
        places{m.slots ? "" : ", changed by hand"}; a change takes{" "}
        <NumberToken
          label="seconds of a change"
          value={m.change_seconds}
          unit=" s"
          onCommit={(change_seconds) => set({ change_seconds })}
        />
        , a stop for the operator{" "}
        <NumberToken
          label="seconds of a stop"
          value={m.stop_seconds}
          unit=" s"
          onCommit={(stop_seconds) => set({ stop_seconds })}
        />
      </Line>
      <Line what="cooling">
        {(["air", "mist", "flood"] as const).map((k) => (
          <label key={k} className="mr-3">
            <input
              type="checkbox"
              checked={m.cooling.includes(k)}
              onChange={(e) =>
                set({
                  cooling: e.target.checked ? [...m.cooling, k] : m.cooling.filter((x) => x !== k),
                })
              }
            />{" "}
            {k}
          </label>
        ))}
      </Line>
      <Line what="heights">
        fast moves{" "}
        <LengthToken label="rapid height" mm={m.clearance} onCommit={(clearance) => set({ clearance })} />{" "}
        over the stock, plunge from{" "}
        <LengthToken label="retract height" mm={m.retract} onCommit={(retract) => set({ retract })} />
      </Line>
    </>
  );
}

function PowerCurve({ points }: { points: [number, number][] }) {
  const W = 120,
    H = 40,
    x1 = Math.max(...points.map((p) => p[0])),
    y1 = Math.max(...points.map((p) => p[1]));
  return (
    <svg
      width={W}
      height={H}
      role="img"
      aria-label="power curve of the spindle"
      className="mr-2 inline-block border border-line bg-white align-middle"
    >
      <path
        d={`M2 ${H - 2}L${points.map((p) => `${2 + (p[0] / x1) * (W - 4)} ${H - 2 - (p[1] / y1) * (H - 6)}`).join("L")}`}
        fill="none"
        stroke="#1c4e49"
        strokeWidth="1.8"
      />
    </svg>
  );
}
