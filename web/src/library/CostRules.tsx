import { LengthToken, NumberToken } from "../shared/Tokens";
import { useUnit } from "../shared/lengths";
import type { Of } from "./ofRules";
import { FAMILIES, Line } from "./shelf";

type Costs = Record<string, number | Record<string, number>>;

/** What work costs, and which remnants are kept. */
export function CostRules({ of }: { of: Of }) {
  const { unit } = useUnit();
  const costs = (of.rules.costs ?? {}) as Costs;
  const currency = String(of.rules.currency ?? "");
  const money = currency ? ` ${currency}` : "";
  const put = (k: string) => (v: number) => of.set({ costs: { ...costs, [k]: v } });
  const n = (k: string) => Number(costs[k] ?? 0);
  const edges = (costs.edge_seconds_m ?? {}) as Record<string, number>;
  return (
    <>
      <Line what="an hour of hand work" near="labour cost wage rate price">
        {n("labour_per_hour") ? "costs " : "has no price yet: "}
        <NumberToken
          label="price of an hour of hand work"
          value={n("labour_per_hour")}
          digits={2}
          unit={money}
          onCommit={put("labour_per_hour")}
        />
      </Line>
      <Line what="set-up" near="labour cost handling">
        <NumberToken
          label="minutes to set a job up"
          value={n("setup_minutes")}
          digits={1}
          unit=" min"
          onCommit={put("setup_minutes")}
        />{" "}
        a job, and{" "}
        <NumberToken
          label="minutes to handle a sheet"
          value={n("sheet_minutes")}
          digits={1}
          unit=" min"
          onCommit={put("sheet_minutes")}
        />{" "}
        a sheet, and{" "}
        <NumberToken
          label="minutes to turn a sheet over"
          value={n("turn_minutes")}
          digits={1}
          unit=" min"
          onCommit={put("turn_minutes")}
        />{" "}
        each time it is turned over
      </Line>
      <Line what="edges by hand" near="deburr sand labour cost">
        {FAMILIES.filter((f) => edges[f] !== undefined).map((f) => (
          <span key={f} className="mr-4 whitespace-nowrap">
            <span className="label">{f}</span>{" "}
            <NumberToken
              label={`seconds a metre of edge, ${f}`}
              value={edges[f]}
              digits={1}
              unit=" s/m"
              onCommit={(v) => of.set({ costs: { ...costs, edge_seconds_m: { ...edges, [f]: v } } })}
            />
          </span>
        ))}
      </Line>
      <Line what="ridges on reliefs" near="sand relief cusp finish">
        <NumberToken
          label="minutes of sanding a square decimetre, for ridges a tenth of a millimetre high"
          value={n("ridge_minutes_dm2")}
          digits={1}
          unit=" min"
          onCommit={put("ridge_minutes_dm2")}
        />{" "}
        of sanding a square decimetre, for ridges a tenth of a millimetre high
      </Line>
      <Line what="remnants" near="keep offcut rack waste">
        kept from{" "}
        <LengthToken label="shortest side of a remnant" mm={n("keep_side")} onCommit={put("keep_side")} /> and{" "}
        <NumberToken
          label="least area of a remnant"
          value={n("keep_area")}
          digits={unit === "mm" ? 3 : 2}
          scale={unit === "mm" ? 1 : 10.7639}
          unit={unit === "mm" ? " m²" : " sq ft"}
          onCommit={put("keep_area")}
        />{" "}
        on, worth{" "}
        <NumberToken
          label="worth of a remnant"
          value={n("remnant_share")}
          scale={100}
          unit=" %"
          onCommit={put("remnant_share")}
        />{" "}
        of new, less{" "}
        <NumberToken
          label="handling of a remnant"
          value={n("remnant_handling")}
          digits={2}
          unit={money}
          onCommit={put("remnant_handling")}
        />{" "}
        each
      </Line>
      <Line what="quotations" near="profit overhead spoilt scrap allowance price">
        <NumberToken
          label="share of pieces spoilt"
          value={n("spoilt_share")}
          scale={100}
          digits={1}
          unit=" %"
          onCommit={put("spoilt_share")}
        />{" "}
        of the pieces are reckoned spoilt,{" "}
        <NumberToken
          label="added to the costs"
          value={n("added_share")}
          scale={100}
          digits={1}
          unit=" %"
          onCommit={put("added_share")}
        />{" "}
        is added to the costs
      </Line>
    </>
  );
}
