import { createContext, useContext, useState, type ReactNode } from "react";

import type { Cutter, Library as Lib } from "../api/model";
import { inUnit } from "../shared/Tokens";
import { useUnit } from "../shared/lengths";

export const FAMILIES = ["wood", "plastic", "aluminium", "steel"];

export type Save = (kind: string, item: object) => Promise<boolean>;

export type Ctx = { lib: Lib; save: Save; remove: (kind: string, id: string) => void };

export const count = (lib: Lib, id: string) =>
  ({
    cutters: lib.cutter.length,
    materials: lib.material.length,
    machines: lib.machine.length,
    holders: lib.holder.length,
    heads: lib.head.length,
    recipes: lib.recipe.length,
    rules: "",
  })[id];

/** Words that lines are looked for by; those that lack one are left away. */
export const Looked = createContext<string[]>([]);

/** The line whose figure is shown, and how another is looked at. */
export const Figured = createContext<{ rule: string | null; look: (rule: string) => void }>({
  rule: null,
  look: () => {},
});

/** A line of a shelf. ``near``: further words it is found by; ``rule``: the figure that shows what it does. */
export function Line({
  what,
  near = "",
  rule,
  children,
}: {
  what: string;
  near?: string;
  rule?: string;
  children: ReactNode;
}) {
  const text = `${what} ${near}`.toLowerCase(),
    figured = useContext(Figured);
  if (!useContext(Looked).every((w) => text.includes(w))) return null;
  const look = rule && (() => figured.look(rule));
  return (
    <p
      data-rule={rule}
      className={`rule grid grid-cols-[8.5rem_minmax(0,1fr)] items-baseline max-md:grid-cols-[6rem_minmax(0,1fr)] gap-2 py-1 ${rule && figured.rule === rule ? "bg-accent-soft" : ""}`}
      {...(look && { onPointerEnter: look, onFocus: look, onClick: look })}
    >
      <span className="label">{what}</span>
      <span>{children}</span>
    </p>
  );
}

/** Text that is changed where it stands. */
export function TextToken({
  label,
  value,
  onCommit,
  area,
}: {
  label: string;
  value: string;
  onCommit: (v: string) => unknown;
  area?: boolean;
}) {
  const { unit } = useUnit(),
    shown = inUnit(value, unit);
  const [text, setText] = useState<string | null>(null),
    [wrong, setWrong] = useState("");
  const done = async () => {
    try {
      if (text !== null && text.trim() !== value) await onCommit(text.trim());
      setText(null);
      setWrong("");
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  if (text === null)
    return (
      <button
        className="border-b border-dotted border-ink text-left"
        aria-label={`${label}: ${shown || "none"}`}
        onClick={() => setText(value)}
      >
        {shown || <span className="text-quiet">none</span>}
      </button>
    );
  const props = {
    "aria-label": label,
    "aria-invalid": !!wrong,
    value: text,
    autoFocus: true,
    maxLength: 400,
    className: "w-full border-b-2 border-accent bg-white px-1",
    onChange: (e: { target: { value: string } }) => setText(e.target.value),
    onBlur: done,
  };
  return (
    <>
      {area ? (
        <textarea rows={2} {...props} />
      ) : (
        <input
          {...props}
          onKeyDown={(e) => {
            if (e.key === "Enter") done();
            if (e.key === "Escape") {
              setText(null);
              setWrong("");
            }
          }}
        />
      )}
      {wrong && (
        <span role="alert" className="block text-fine text-stop">
          {wrong}
        </span>
      )}
    </>
  );
}

// -- cutters

/** Changes some fields of the cutter that is shown. */
export type SetCutter = (fields: Partial<Cutter>) => void;
