import { PassRules, PocketRules, WebRules } from "./CutRules";
import { HoldingRules } from "./HoldingRules";
import { type HouseRules } from "./ofRules";
import { type Ctx, Line, TextToken } from "./shelf";

/** The shop's own rules: new jobs start with them. */
export function Rules({ lib, save }: Ctx) {
  const rules: HouseRules = { ...lib.rules[0] };
  const of = { rules, set: (f: HouseRules) => save("rules", { ...rules, ...f }) };
  return (
    <article className="max-w-3xl border border-line bg-paper p-3" aria-label="House rules">
      <h2 className="text-head font-semibold">
        <TextToken
          label="name"
          value={String(rules.name ?? "Shop rules")}
          onCommit={(name) => of.set({ name })}
        />
      </h2>
      <p className="label">New jobs start with them; running jobs are offered the change at Cuts & hold.</p>
      <Line what="prices are in">
        <TextToken
          label="currency"
          value={String(rules.currency ?? "")}
          onCommit={(currency) => of.set({ currency })}
        />
      </Line>
      <PassRules of={of} />
      <PocketRules of={of} />
      <HoldingRules of={of} />
      <WebRules of={of} />
    </article>
  );
}
