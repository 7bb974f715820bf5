import { post } from "../api/client";
import type { Holder } from "../api/model";
import type { Cutter } from "../api/model";
import { useLibrary } from "../api/queries";
import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { length, metres, useUnit } from "../shared/lengths";
import { type SetCutter } from "./shelf";
import { Line, TextToken } from "./shelf";

/** How far a cutter stands out and may go down, how worn it is, and what was noted. */
export function CutterReach({ c, set, holders }: { c: Cutter; set: SetCutter; holders: Holder[] }) {
  const { data, refetch } = useLibrary();
  const currency = String(data?.rules[0]?.currency ?? "");
  const { unit } = useUnit();
  return (
    <>
      <Line what="stands out">
        <LengthToken
          label="stick-out"
          mm={c.stick_out ?? c.cutting_length + c.diameter / 2}
          house={c.stick_out === null}
          onCommit={(stick_out) => set({ stick_out })}
          onHouse={() => set({ stick_out: null })}
          why="shortest that does the job; it bends with the cube of this"
        />{" "}
        from{" "}
        <Choice
          label="holder"
          value={c.holder ?? ""}
          options={[["", "no holder named"], ...holders.map((h): [string, string] => [h.id, h.name])]}
          onPick={(v) => set({ holder: v || null })}
        />
        {c.holder &&
          (() => {
            const h = holders.find((x) => x.id === c.holder);
            return h && h.collets.length > 0 && !h.collets.some((d) => Math.abs(d - c.shank) < 0.05) ? (
              <span className="text-look"> no collet for a {length(c.shank, unit)} shank</span>
            ) : null;
          })()}
      </Line>
      <Line what="at most">
        <LengthToken
          label="deepest"
          mm={c.max_depth ?? c.cutting_length}
          house={c.max_depth === null}
          onCommit={(max_depth) => set({ max_depth })}
          onHouse={() => set({ max_depth: null })}
        />{" "}
        deep;{" "}
        <Choice
          label="centre cutting"
          value={c.centre_cutting ? "yes" : "no"}
          options={[
            ["yes", "cuts at its centre"],
            ["no", "never plunges straight"],
          ]}
          onPick={(v) => set({ centre_cutting: v === "yes" })}
        />
      </Line>
      <Line what="worn">
        <span className="num">{metres(c.metres * 1000, unit)}</span>
        {c.life ? (
          <>
            {" "}
            of{" "}
            <NumberToken
              label="metres of life"
              value={c.life}
              unit=" m"
              onCommit={(v) => set({ life: v || null })}
            />
          </>
        ) : (
          <>
            ;{" "}
            <button className="border-b border-dotted border-ink" onClick={() => set({ life: 1000 })}>
              no limit set
            </button>
          </>
        )}{" "}
        <button
          className="key ml-2 !py-0"
          onClick={() =>
            post(`/library/cutter/${c.id}/wear`, { metres: 0, sharpened: true }).then(() => refetch())
          }
        >
          Sharpened or new
        </button>
      </Line>
      <Line what="a new edge" near="price cost wear">
        {c.price == null && "no price yet: "}
        <NumberToken
          label="price of a new edge"
          value={c.price ?? 0}
          digits={2}
          unit={currency ? ` ${currency}` : ""}
          onCommit={(price) => set({ price })}
        />
        {c.price != null && ", by buying or sharpening"}
      </Line>
      <Line what="note">
        <TextToken label="note" value={c.note} area onCommit={(note) => set({ note })} />
      </Line>
    </>
  );
}
