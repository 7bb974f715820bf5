import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { post } from "../api/client";
import { Choice, inUnit, LengthToken, NumberToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";
import { percent, type Tabs, Facts } from "./tab";

type Tram = { tilt: number; per_100: number; shim: number; says: string };

export function RidgeTab({ view, put }: Tabs) {
  const { unit } = useUnit();
  const b = view.bench,
    x =
      view.bench.how.along === "y" || (view.bench.how.along === "longer" && b.board.width < b.board.height)
        ? "y"
        : "x";
  const [height, setHeight] = useState(0.05),
    [high, setHigh] = useState<"left" | "right" | "front" | "back">(x === "x" ? "back" : "right"),
    [span, setSpan] = useState(100);
  const apart =
    view.choices.find((c) => Math.abs(c.share - b.how.step_over) < 1e-6)?.spacing ??
    b.how.cutter * b.how.step_over;
  const found = useQuery({
    queryKey: ["tram", height, apart, high, x, span],
    retry: false,
    queryFn: () => post<Tram>("/tram", { height, spacing: apart, high, along: x, span }),
  });
  return (
    <>
      <h2 className="text-figure font-semibold">Ridges and tram</h2>
      <p className="leading-[1.65]">
        The spindle leans{" "}
        <NumberToken
          label="tilt across the rows"
          value={b.tilt_across}
          digits={3}
          unit="°"
          least={-5}
          onCommit={(tilt_across) => put({ tilt_across })}
        />{" "}
        across the rows and{" "}
        <NumberToken
          label="tilt along the rows"
          value={b.tilt_along}
          digits={3}
          unit="°"
          least={-5}
          onCommit={(tilt_along) => put({ tilt_along })}
        />{" "}
        along them. Ridges up to{" "}
        <LengthToken
          label="ridges not felt"
          mm={b.ridge_limit}
          digits={unit === "mm" ? 3 : 4}
          onCommit={(ridge_limit) => put({ ridge_limit })}
        />{" "}
        are not felt.
      </p>
      {view.worth !== null ? (
        <p>
          Quickest that is not felt: step-over <b className="num">{percent(view.worth)}</b>
          {Math.abs(view.worth - b.how.step_over) > 1e-6 && (
            <>
              {" "}
              <button
                className="key !py-0"
                onClick={() => put({ how: { ...b.how, step_over: view.worth! } })}
              >
                Take it
              </button>
            </>
          )}
          .
        </p>
      ) : (
        <p className="text-look">
          At this tilt every step-over leaves ridges to feel: tram the spindle first.
        </p>
      )}
      <p className="label">
        Tilt across: a step of spacing × tan. Tilt along: each row is dished, which shows far less.
      </p>
      <section className="mt-3 border-t border-line pt-2" aria-label="Tram finder">
        <h3 className="text-head font-semibold">Feel a step between rows?</h3>
        <p className="leading-[1.65]">
          A step of{" "}
          <LengthToken
            label="height of the step"
            mm={height}
            digits={unit === "mm" ? 3 : 4}
            onCommit={setHeight}
          />{" "}
          at rows {length(apart, unit, 1)} apart along {x.toUpperCase()}, every row higher at its{" "}
          <Choice
            label="high side"
            value={high}
            options={
              x === "x"
                ? [
                    ["back", "back"],
                    ["front", "front"],
                  ]
                : [
                    ["right", "right"],
                    ["left", "left"],
                  ]
            }
            onPick={setHigh}
          />{" "}
          side; <LengthToken label="between the mount's screws" mm={span} onCommit={setSpan} /> between the
          mount's screws.
        </p>
        {found.error && (
          <p role="alert" className="text-stop">
            {(found.error as Error).message}
          </p>
        )}
        {found.data && (
          <>
            <Facts
              rows={[
                ["out of square", `${found.data.tilt.toFixed(3)}°`],
                [`over ${length(100, unit, 2)}`, length(found.data.per_100, unit, unit === "mm" ? 3 : 4)],
                ["shim", length(found.data.shim, unit, unit === "mm" ? 3 : 4)],
              ]}
            />
            <p className="mt-1 border-l-4 border-accent pl-2" role="status">
              {inUnit(found.data.says, unit)}.
            </p>
            <button
              className="key mt-1 !py-0.5"
              onClick={() => put({ tilt_across: Math.round(found.data!.tilt * 1000) / 1000 })}
            >
              Reckon with it
            </button>
          </>
        )}
      </section>
    </>
  );
}
