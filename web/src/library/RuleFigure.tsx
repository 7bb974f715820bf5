import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { components } from "../api/schema";
import { Figure } from "../reckonings/Figure";
import { Choices } from "../shared/Choices";
import { inUnit } from "../shared/Tokens";
import { bare, useUnit } from "../shared/lengths";
import type { HouseRules } from "./ofRules";
import { FAMILIES } from "./shelf";

type Drawn = components["schemas"]["RuleDocument"];
/** mm; a common cutter and sheet of each kind of shop. */
const ON = { mm: { diameter: 6, thickness: 18 }, in: { diameter: 6.35, thickness: 19.05 } };

/** What the rule that is looked at does, drawn with its own numbers. */
export function RuleFigure({
  rule,
  rules,
  family,
  onFamily,
}: {
  rule: string;
  rules: HouseRules;
  family: string;
  onFamily: (family: string) => void;
}) {
  const { unit } = useUnit(),
    on = ON[unit];
  const { data, error } = useQuery({
    queryKey: ["rules-drawn", family, unit, JSON.stringify(rules)],
    queryFn: () =>
      call<Drawn[]>(`/house-rules/drawn?family=${family}&diameter=${on.diameter}&thickness=${on.thickness}`),
    placeholderData: keepPreviousData,
  });
  const drawn = data?.find((d) => d.rule === rule);
  return (
    <section aria-label="What it does" className="border border-line bg-paper p-3">
      <h2 className="text-head font-semibold">What it does</h2>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <Choices
          label="drawn for"
          value={family}
          options={FAMILIES.map((f): [string, string] => [f, f])}
          onPick={onFamily}
        />
        <span className="label num">
          cutter {bare(on.diameter, unit)}, sheet {bare(on.thickness, unit)} {unit}
        </span>
      </div>
      {error && (
        <p role="alert" className="mt-2 text-stop">
          {error.message}
        </p>
      )}
      {data && !drawn && <p className="mt-2">These rules have no number for {family}.</p>}
      {drawn && (
        <figure className="mt-2">
          <Figure
            marks={drawn.marks.map((m) => ({ ...m, text: inUnit(m.text, unit) }))}
            title={inUnit(drawn.says, unit)}
          />
          <figcaption className="mt-1 text-small" aria-live="polite">
            {inUnit(drawn.says, unit)}
          </figcaption>
        </figure>
      )}
    </section>
  );
}
