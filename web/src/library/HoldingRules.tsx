import type { HoldRules } from "../api/model";
import { NumberToken, QuantityToken } from "../shared/Tokens";
import { type Of } from "./ofRules";
import { FAMILIES, Line } from "./shelf";

/** What holds: friction, tabs, screws, and when it is looked at. */
export function HoldingRules({ of }: { of: Of }) {
  const hold = (of.rules.hold ?? {}) as Partial<HoldRules>;
  return (
    <>
      <Line what="holding" near="friction tab screw margin" rule="hold">
        {(["friction", "tab_strength"] as const).map((k) => (
          <span key={k}>
            {k === "friction" ? "friction on the bed" : "; tabs bear"}{" "}
            {FAMILIES.slice(0, 3).map((f) => (
              <span key={f} className="mr-2 whitespace-nowrap">
                <span className="label">{f}</span>{" "}
                {k === "friction" ? (
                  <NumberToken
                    label={`friction, ${f}`}
                    value={hold[k]?.[f] ?? 0}
                    digits={2}
                    onCommit={(v) => of.set({ hold: { ...hold, [k]: { ...hold[k], [f]: v } } })}
                  />
                ) : (
                  <QuantityToken
                    of="strength"
                    label={`tab strength, ${f}`}
                    value={hold[k]?.[f] ?? 0}
                    onCommit={(v) => of.set({ hold: { ...hold, [k]: { ...hold[k], [f]: v } } })}
                  />
                )}
              </span>
            ))}
          </span>
        ))}
        ; a screw bears{" "}
        <NumberToken
          label="screw"
          value={hold.screw_shear ?? 600}
          unit=" N"
          onCommit={(screw_shear) => of.set({ hold: { ...hold, screw_shear } })}
        />
        ; looked at below{" "}
        <NumberToken
          label="hold margin"
          value={hold.margin ?? 2}
          digits={1}
          least={1}
          unit=" x"
          onCommit={(margin) => of.set({ hold: { ...hold, margin } })}
        />
      </Line>
    </>
  );
}
