import { useState } from "react";

import { NumberToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";
import { type Tabs, Facts } from "./tab";

export function FlatTab({ view, send, put }: Tabs & { send: (path: string, body: unknown) => void }) {
  const { unit } = useUnit();
  const f = view.flatness,
    [text, setText] = useState(""),
    [columns, setColumns] = useState(9),
    [rows, setRows] = useState(5),
    n = view.bench.readings.length;
  const tilt = (v: number, long: number, a: string, b: string) =>
    Math.abs(v) < 0.005
      ? "level"
      : `${length(Math.abs(v), unit, unit === "mm" ? 2 : 3)} higher at the ${v > 0 ? b : a} (${((Math.abs(v) / long) * 1000).toFixed(2)} mm/m)`;
  const droop = (v: number) =>
    Math.abs(v) < 0.005
      ? "straight"
      : `${length(Math.abs(v), unit, unit === "mm" ? 2 : 3)} ${v > 0 ? "hollow" : "crowned"} in the middle`;
  return (
    <>
      <h2 className="text-figure font-semibold">How flat it is</h2>
      {f ? (
        <>
          <p className="label">
            {n} readings{view.bench.simulated ? ", of the simulated probe" : ""}.
          </p>
          <Facts
            rows={[
              [
                "highest less lowest",
                <b key="r" className="text-head font-medium">
                  {length(f.range, unit, unit === "mm" ? 2 : 3)}
                </b>,
              ],
              [
                "least depth that cleans everything",
                <b key="l" className="text-head font-medium">
                  {length(f.least, unit, unit === "mm" ? 2 : 3)}
                </b>,
              ],
            ]}
          />
          <dl className="mt-1 text-small">
            <dt className="label">tilt</dt>
            <dd>
              {tilt(f.tilt[0], view.bench.board.width, "left", "right")};{" "}
              {tilt(f.tilt[1], view.bench.board.height, "front", "back")}
            </dd>
            <dt className="label">droop</dt>
            <dd>
              along X {droop(f.droop[0])}; along Y {droop(f.droop[1])}
            </dd>
            <dt className="label">what neither explains</dt>
            <dd className="num">{length(f.rest, unit, unit === "mm" ? 3 : 4)} rms</dd>
          </dl>
          <p className="mt-1">
            <button
              className="key !py-0.5"
              onClick={() => {
                const s = view.bench.how,
                  need = Math.max(0.05, f.least - s.start - s.finish_depth);
                const passes = Math.max(1, Math.ceil(need / Math.max(s.depth, 0.05) - 1e-9));
                put({ how: { ...s, passes, depth: Math.round((need / passes) * 100 + 0.499) / 100 } });
              }}
            >
              Take just that
            </button>{" "}
            <button className="key !py-0.5" onClick={() => put({ readings: [], simulated: false })}>
              Forget the readings
            </button>
          </p>
        </>
      ) : (
        <p className="mt-1">
          No readings yet. Zero on a high or middle spot, then read heights over the face with a probe, or
          with straight-edge and feeler.
        </p>
      )}
      <section className="mt-3 border-t border-line pt-2">
        <h3 className="text-head font-semibold">Probe it</h3>
        <p>
          A walk of{" "}
          <NumberToken
            label="touches along X"
            value={columns}
            least={2}
            onCommit={(v) => setColumns(Math.min(40, Math.round(v)))}
          />{" "}
          by{" "}
          <NumberToken
            label="touches along Y"
            value={rows}
            least={2}
            onCommit={(v) => setRows(Math.min(40, Math.round(v)))}
          />{" "}
          touches.{" "}
          <button
            className="key !py-0.5"
            onClick={() => send("/readings", { columns, rows, seed: Math.floor(Math.random() * 1e6) })}
          >
            Simulated probe
          </button>
        </p>
      </section>
      <section className="mt-3 border-t border-line pt-2">
        <h3 className="text-head font-semibold">Type or paste</h3>
        <textarea
          className="field h-24 w-full resize-y"
          value={text}
          onChange={(e) => setText(e.target.value)}
          aria-label="Readings"
          placeholder={"X Y height, a line each\n0 0 0\n1200 600 -0.35"}
          spellCheck={false}
        />
        <button
          className="key !py-0.5"
          disabled={!text.trim()}
          onClick={() => send("/readings", { text, inch: unit === "in" })}
        >
          Take these readings, in {unit}
        </button>
      </section>
    </>
  );
}
