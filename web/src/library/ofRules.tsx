import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { FAMILIES, Line } from "./shelf";

/** House rules as the library holds them, by name. */
export type HouseRules = Record<string, unknown>;
/** The rules as they are, and how some of them are changed. */
export type Of = { rules: HouseRules; set: (f: HouseRules) => void };

/** A rule's number. */
export const num = (of: Of, key: string) => Number(of.rules[key] ?? 0);

const by = <T,>(of: Of, key: string) => (of.rules[key] ?? {}) as Record<string, T>;

type Numbers = {
  of: Of;
  what: string;
  k: string;
  rule?: string;
  unit?: string;
  digits?: number;
  mm?: boolean;
};

/** A rule with a number for each family of material. */
export function ByFamily({ of, what, k, rule = k, unit, digits = 2, mm }: Numbers) {
  const now = by<number>(of, k);
  const put = (f: string, v: number) => of.set({ [k]: { ...now, [f]: v } });
  return (
    <Line what={what} rule={rule}>
      {FAMILIES.filter((f) => now[f] !== undefined).map((f) => (
        <span key={f} className="mr-4 whitespace-nowrap">
          <span className="label">{f}</span>{" "}
          {mm ? (
            <LengthToken label={`${what}, ${f}`} mm={now[f]} onCommit={(v) => put(f, v)} />
          ) : (
            <NumberToken
              label={`${what}, ${f}`}
              value={now[f]}
              digits={digits}
              unit={unit}
              onCommit={(v) => put(f, v)}
            />
          )}
        </span>
      ))}
    </Line>
  );
}

type Words = { of: Of; what: string; k: string; options: [string, string][] };

/** A rule with a choice for each family that a router cuts. */
export function WordByFamily({ of, what, k, options }: Words) {
  const now = by<string>(of, k);
  return (
    <Line what={what} rule={k}>
      {FAMILIES.slice(0, 3).map((f) => (
        <span key={f} className="mr-4 whitespace-nowrap">
          <span className="label">{f}</span>{" "}
          <Choice
            label={`${what}, ${f}`}
            value={now[f] ?? ""}
            options={options}
            onPick={(v) => of.set({ [k]: { ...now, [f]: v } })}
          />
        </span>
      ))}
    </Line>
  );
}
