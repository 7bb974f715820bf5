import { type Surfacing as How } from "../api/model";
import { Choice, NumberToken, QuantityToken } from "../shared/Tokens";
import { PassesOf, TouchOff, WithCutter } from "./HowCutParts";
import { type Tabs } from "./tab";

/** The sentence that says how a board is surfaced. */
export function HowCut({ view, put, face = 1 }: Tabs) {
  const s = view.bench.how,
    how = (f: Partial<How>) => put({ how: { ...s, ...f } });
  return (
    <section
      className="mt-2 border border-line bg-paper px-2.5 py-1.5 leading-[1.65]"
      aria-label="How it is surfaced"
    >
      <p>
        <Choice
          label="pattern"
          value={s.pattern}
          options={[
            ["rows", "Rows"],
            ["rows+perimeter", "Perimeter first, then rows"],
            ["spiral", "A spiral"],
          ]}
          onPick={(pattern) => how({ pattern })}
        />
        {s.pattern === "spiral" ? (
          <>
            {" "}
            <Choice
              label="spiral"
              value={s.inwards ? "in" : "out"}
              options={[
                ["in", "from the outside in"],
                ["out", "from the middle out"],
              ]}
              onPick={(v) => how({ inwards: v === "in" })}
            />
          </>
        ) : (
          <>
            {" "}
            <Choice
              label="along"
              value={s.along}
              options={[
                ["longer", "along the longer side"],
                ["x", "along X"],
                ["y", "along Y"],
                ["grain", "along the grain"],
              ]}
              onPick={(along) => how({ along })}
            />
          </>
        )}
        ,{" "}
        <Choice
          label="ways"
          value={s.ways}
          options={[
            ["both ways", "both ways"],
            ["climb", "climb only"],
            ["conventional", "conventional only"],
          ]}
          onPick={(ways) => how({ ways })}
          why="climb only runs back in air: slower, cleaner edges"
        />
        <WithCutter view={view} put={put} />
        <PassesOf view={view} put={put} face={face} />
        <TouchOff view={view} put={put} face={face} />
      </p>
      <p className="text-small text-quiet">
        <NumberToken
          label="spindle speed"
          value={s.rpm}
          unit=" rpm"
          least={1}
          onCommit={(rpm) => how({ rpm })}
        />{" "}
        &nbsp;{" "}
        <QuantityToken
          of="feed"
          label="feed"
          value={s.feed}
          least={0.001}
          onCommit={(feed) => how({ feed })}
        />
        , plunge{" "}
        <QuantityToken
          of="feed"
          label="plunge"
          value={s.plunge}
          least={0.001}
          onCommit={(plunge) => how({ plunge })}
        />
        , ramps{" "}
        <QuantityToken
          of="feed"
          label="ramp feed"
          value={s.ramp ?? Math.max(s.plunge, s.feed / 2)}
          house={s.ramp === null}
          least={0.001}
          onCommit={(ramp) => how({ ramp })}
          onHouse={() => how({ ramp: null })}
        />{" "}
        &nbsp;{" "}
        {view.flatness && s.pattern !== "spiral" && (
          <button
            className="underline decoration-dotted"
            aria-pressed={s.only_touched}
            onClick={() => how({ only_touched: !s.only_touched })}
          >
            {s.only_touched ? "only where it touches" : "everywhere, air too"}
          </button>
        )}
      </p>
    </section>
  );
}
