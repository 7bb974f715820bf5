import type { Holder } from "../api/model";
import { LengthToken } from "../shared/Tokens";
import { bare, readLengths, useUnit } from "../shared/lengths";
import { type Ctx, Line, TextToken } from "./shelf";

export function Holders({ lib, save, remove }: Ctx) {
  const { unit } = useUnit();
  return (
    <div>
      <button
        className="key-strong mb-2"
        onClick={() =>
          save("holder", {
            id: `holder-${Date.now().toString(36)}`,
            name: "Collet chuck",
            nose: 40,
            length: 60,
            collets: [6, 8],
          })
        }
      >
        A new holder
      </button>
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        {lib.holder.map((h: Holder) => (
          <article key={h.id} className="border border-line bg-paper p-3" aria-label={h.name}>
            <h2 className="text-head font-semibold">
              <TextToken label="name" value={h.name} onCommit={(name) => save("holder", { ...h, name })} />
            </h2>
            <Line what="nose">
              <LengthToken label="nose" mm={h.nose} onCommit={(nose) => save("holder", { ...h, nose })} />{" "}
              across, reaches{" "}
              <LengthToken
                label="length"
                mm={h.length}
                onCommit={(l) => save("holder", { ...h, length: l })}
              />{" "}
              below the spindle
            </Line>
            <Line what="collets">
              <TextToken
                label={`collets, ${unit}`}
                value={h.collets.map((d) => bare(d, unit)).join(", ")}
                onCommit={async (v) => save("holder", { ...h, collets: await readLengths(v, unit) })}
              />
            </Line>
            <Line what="cutters in it">
              {lib.cutter
                .filter((c) => c.holder === h.id)
                .map((c) => c.name)
                .join(", ") || "none"}
            </Line>
            <p className="mt-2">
              <button className="key !py-0" onClick={() => remove("holder", h.id)}>
                Remove
              </button>
            </p>
          </article>
        ))}
      </div>
    </div>
  );
}
