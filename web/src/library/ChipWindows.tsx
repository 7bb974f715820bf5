import type { Material } from "../api/model";
import { LengthToken } from "../shared/Tokens";
import { bare, useUnit } from "../shared/lengths";
import { Line, TextToken } from "./shelf";

/** The chips a material wants by diameter: the family's, or its own. */
export function ChipWindows({ m, set }: { m: Material; set: (f: Partial<Material>) => void }) {
  const { unit } = useUnit();
  const put = (window: number, row: number, column: number, v: number) =>
    set({
      windows: m.windows.map((w, j) =>
        j === window
          ? {
              ...w,
              rows: w.rows.map((r, n) =>
                n === row ? (r.map((x, c) => (c === column ? v : x)) as typeof r) : r,
              ),
            }
          : w,
      ),
    });
  return (
    <>
      <Line what="chip windows">
        {m.windows.length ? (
          m.windows.map((w, i) => (
            <span key={i} className="block">
              {w.kinds.join(", ") || "all kinds"}:{" "}
              <span className="num">
                {w.rows
                  .map((r) => `${bare(r[0], unit)}: ${bare(r[1], unit, 3)} to ${bare(r[2], unit, 3)}`)
                  .join("; ")}
              </span>{" "}
              <span className="label">{w.source}</span>
            </span>
          ))
        ) : (
          <span className="text-quiet">the family's, common practice</span>
        )}
        {!m.windows.length && (
          <button
            className="key ml-2 !py-0"
            onClick={() =>
              set({
                windows: [
                  {
                    kinds: [],
                    rows: [
                      [3, 0.05, 0.15],
                      [6, 0.15, 0.4],
                      [12, 0.3, 0.75],
                    ],
                    source: "shop's own",
                  },
                ],
              })
            }
          >
            Its own
          </button>
        )}
      </Line>
      {m.windows.map((w, i) => (
        <div key={i} className="mt-1 text-small">
          {w.rows.map((r, k) => (
            <p key={k}>
              <LengthToken label={`diameter ${k + 1}`} mm={r[0]} onCommit={(v) => put(i, k, 0, v)} /> across:{" "}
              <LengthToken
                label={`least chip ${k + 1}`}
                digits={3}
                mm={r[1]}
                onCommit={(v) => put(i, k, 1, v)}
              />{" "}
              to{" "}
              <LengthToken
                label={`most chip ${k + 1}`}
                digits={3}
                mm={r[2]}
                onCommit={(v) => put(i, k, 2, v)}
              />
            </p>
          ))}
          <p className="label">
            source:{" "}
            <TextToken
              label="source of the window"
              value={w.source}
              onCommit={(source) =>
                set({
                  windows: m.windows.map((x, j) => (j === i ? { ...x, source: source || "shop's own" } : x)),
                })
              }
            />{" "}
            <button
              className="underline"
              onClick={() => set({ windows: m.windows.filter((_, j) => j !== i) })}
            >
              back to the family's
            </button>
          </p>
        </div>
      ))}
    </>
  );
}
