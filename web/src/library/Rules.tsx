import { useState } from "react";

import { CostRules } from "./CostRules";
import { JetRules, PassRules, PocketRules, WebRules } from "./CutRules";
import { HoldingRules } from "./HoldingRules";
import { ReleaseRules } from "./ReleaseRules";
import { RuleFigure } from "./RuleFigure";
import { RulesTrial } from "./RulesTrial";
import { TurningRules } from "./TurningRules";
import { type HouseRules } from "./ofRules";
import { type Ctx, Figured, Line, Looked, TextToken } from "./shelf";

/** The shop's own rules: new jobs start with them. */
export function Rules({ lib, save }: Ctx) {
  const [find, setFind] = useState(""),
    [rule, look] = useState("step_down"),
    [family, setFamily] = useState("wood");
  const rules: HouseRules = { ...lib.rules[0] };
  const of = { rules, set: (f: HouseRules) => save("rules", { ...rules, ...f }) };
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,48rem)_minmax(0,1fr)]">
      <article className="border border-line bg-paper p-3" aria-label="House rules">
        <h2 className="text-head font-semibold">
          <TextToken
            label="name"
            value={String(rules.name ?? "Shop rules")}
            onCommit={(name) => of.set({ name })}
          />
        </h2>
        <p className="label">New jobs start with them; running jobs are offered the change at Cuts & hold.</p>
        <input
          type="search"
          className="field mt-1 w-full !font-sans"
          placeholder="find: pass, tab, plunge, screw ..."
          aria-label="Find a rule"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        <Looked.Provider value={find.toLowerCase().split(/\s+/).filter(Boolean)}>
          <Line what="prices are in" near="currency money cost">
            <TextToken
              label="currency"
              value={String(rules.currency ?? "")}
              onCommit={(currency) => of.set({ currency })}
            />
          </Line>
          <Figured.Provider value={{ rule, look }}>
            <PassRules of={of} />
            <PocketRules of={of} />
            <JetRules of={of} />
            <HoldingRules of={of} />
            <TurningRules of={of} />
            <WebRules of={of} />
            <CostRules of={of} />
            <ReleaseRules of={of} />
          </Figured.Provider>
        </Looked.Provider>
      </article>
      <div className="grid gap-4 lg:sticky lg:top-0">
        <RuleFigure {...{ rule, rules, family }} onFamily={setFamily} />
        <RulesTrial rules={rules} />
      </div>
    </div>
  );
}
