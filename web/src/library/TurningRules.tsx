import type { components } from "../api/schema";
import { LengthToken } from "../shared/Tokens";
import { type Of } from "./ofRules";
import { Line } from "./shelf";

type Turn = components["schemas"]["TurnRules"];
const ERRORS: [keyof NonNullable<Turn["errors"]>, string][] = [
  ["placing", "a hole is bored within"],
  ["edge", "an edge is met within"],
  ["square", "stock is out of square by, in a metre"],
  ["size", "its size is known within"],
  ["zero", "Z is zeroed within"],
  ["thickness", "its thickness is read within"],
];

/** Stock cut from both faces: the dowels of the shop, what it can keep to, and how thin a floor may be. */
export function TurningRules({ of }: { of: Of }) {
  const turning = (of.rules.turning ?? {}) as Turn,
    dowels = turning.dowels ?? [];
  const set = (fields: Partial<Turn>) => of.set({ turning: { ...turning, ...fields } });
  const put = (k: number, fields: object) =>
    set({ dowels: dowels.map((d, i) => (i === k ? { ...d, ...fields } : d)) });
  return (
    <Line what="both faces" near="turn dowel pin registration" rule="turning">
      dowels{" "}
      {dowels.map((d, k) => (
        <span key={k} className="mr-2 whitespace-nowrap">
          <LengthToken
            label={`diameter of dowel ${k + 1}`}
            mm={d.diameter}
            onCommit={(diameter) => put(k, { diameter })}
          />{" "}
          by{" "}
          <LengthToken
            label={`length of dowel ${k + 1}`}
            mm={d.length ?? 25}
            onCommit={(length) => put(k, { length })}
          />
          , hole larger by{" "}
          <LengthToken
            label={`fit of dowel ${k + 1}`}
            mm={d.fit ?? 0.05}
            onCommit={(fit) => put(k, { fit })}
          />
          <button
            className="ml-1 underline decoration-dotted"
            aria-label={`remove dowel ${k + 1}`}
            onClick={() => set({ dowels: dowels.filter((_, i) => i !== k) })}
          >
            remove
          </button>
          ;
        </span>
      ))}
      <button
        className="key !py-0"
        onClick={() => set({ dowels: [...dowels, { diameter: 12, fit: 0.05, length: 30 }] })}
      >
        Another dowel
      </button>{" "}
      {ERRORS.map(([k, words]) => (
        <span key={k} className="mr-2 whitespace-nowrap">
          {words}{" "}
          <LengthToken
            label={words}
            mm={turning.errors?.[k] ?? 0}
            onCommit={(v) => set({ errors: { ...turning.errors, [k]: v } })}
          />
          ;
        </span>
      ))}
      between the faces at least{" "}
      <LengthToken
        label="left between the faces"
        mm={turning.least_floor ?? 2}
        onCommit={(least_floor) => set({ least_floor })}
      />
    </Line>
  );
}
