import { createContext, useContext, useEffect, useId, useRef, useState, type ReactNode } from "react";

import { call } from "../api/client";

export type Unit = "mm" | "in";
const Context = createContext<{ unit: Unit; setUnit: (u: Unit) => void }>({ unit: "mm", setUnit: () => {} });

export function UnitProvider({ children }: { children: ReactNode }) {
  const [unit, set] = useState<Unit>(() => (localStorage.getItem("venzo-unit") === "in" ? "in" : "mm"));
  const setUnit = (u: Unit) => {
    localStorage.setItem("venzo-unit", u);
    set(u);
  };
  return <Context.Provider value={{ unit, setUnit }}>{children}</Context.Provider>;
}
export const useUnit = () => useContext(Context);

const trim = (v: number, digits: number) => {
  const text = v.toFixed(digits);
  const short = text.includes(".") ? text.replace(/\.?0+$/, "") : text;
  return short === "-0" ? "0" : short;
};
/** A length in the shop's unit, without its name. */
export const bare = (mm: number, unit: Unit, digits?: number) =>
  unit === "mm"
    ? trim(mm, digits ?? 2)
    : trim(mm / 25.4, digits === undefined || Math.abs(mm) < 25.4 ? 4 : 3); // a digit of a millimetre is two of an inch
export const length = (mm: number, unit: Unit, digits?: number) => `${bare(mm, unit, digits)} ${unit}`;
export const metres = (mm: number, unit: Unit) =>
  unit === "mm" ? `${(mm / 1000).toFixed(1)} m` : `${(mm / 304.8).toFixed(1)} ft`;
/** An area in the unit that leaves figures before the point: m² or cm², square feet or inches. */
export const squareMetres = (mm2: number, unit: Unit) =>
  unit === "mm"
    ? Math.abs(mm2) < 1e4
      ? `${(mm2 / 100).toFixed(1)} cm²`
      : `${(mm2 / 1e6).toFixed(2)} m²`
    : Math.abs(mm2) < 4e4
      ? `${(mm2 / 645.16).toFixed(1)} sq in`
      : `${(mm2 / 92903.04).toFixed(1)} sq ft`;

/** Quantities that are no lengths: by unit, what a value in the core's unit is shown times, with which digits, and what it is called. */
const QUANTITIES = {
  feed: { mm: [1e-3, 2, "m/min"], in: [1 / 25.4, 0, "in/min"] }, // mm/min
  edge: { mm: [1, 0, "m/min"], in: [1 / 0.3048, 0, "ft/min"] }, // m/min
  acceleration: { mm: [1, 0, "mm/s²"], in: [1 / 25.4, 1, "in/s²"] }, // mm/s²
  removal: { mm: [0.06, 1, "cm³/min"], in: [60 / 16387.064, 2, "in³/min"] }, // mm³/s
  volume: { mm: [1e-3, 1, "cm³"], in: [1 / 16387.064, 2, "in³"] }, // mm³
  jerk: { mm: [1, 0, "mm/s³"], in: [1 / 25.4, 0, "in/s³"] }, // mm/s³
  strength: { mm: [1, 1, "N/mm²"], in: [145.0377, 0, "psi"] }, // N/mm²
  energy: { mm: [1, 2, "J/mm³"], in: [16387.064 / 44741.99, 3, "hp min/in³"] }, // J/mm³; a horsepower minute is 44,742 J
} as const;
export type Quantity = keyof typeof QUANTITIES;
export const inQuantity = (what: Quantity, unit: Unit) => {
  const [scale, digits, name] = QUANTITIES[what][unit];
  return { scale, digits, name };
};
/** A quantity in the shop's unit, with its name. */
export const quantity = (value: number, what: Quantity, unit: Unit, digits?: number) => {
  const q = inQuantity(what, unit);
  return `${(value * q.scale).toFixed(digits ?? q.digits)} ${q.name}`;
};

const ask = <T,>(path: string, text: string, unit: Unit) =>
  call<T>(`/${path}?unit=${unit}&text=${encodeURIComponent(text)}`);
/** A length as people write it, read by the server; ``said``: what was taken for granted. */
export const readLength = (text: string, unit: Unit) =>
  ask<{ mm: number; said: string }>("length", text, unit);
/** Several lengths: "15 1/2, 16". */
export const readLengths = async (text: string, unit: Unit) =>
  text.trim() ? (await ask<{ mm: number[] }>("lengths", text, unit)).mm : [];
/** Corners: "0, 0; 15 1/2, 16". */
export const readCorners = async (text: string, unit: Unit) =>
  text.trim() ? (await ask<{ mm: [number, number][] }>("corners", text, unit)).mm : [];
/** A plain number as people write it: 18,000 is grouped, 0,5 has a decimal comma; NaN where it is none. */
export function plainNumber(text: string): number {
  const t = text.replace(/[\s\u00a0%]/g, "");
  if (!t) return NaN;
  return Number(/^[-+]?[1-9]\d{0,2}(,\d{3})+(\.\d+)?$/.test(t) ? t.replace(/,/g, "") : t.replace(",", "."));
}

const TYPED = "venzo-typed",
  MOST_TYPED = 300;
const typed = (): Record<string, string> => {
  try {
    return JSON.parse(localStorage.getItem(TYPED) ?? "{}");
  } catch {
    return {};
  }
};
/** A length typed in the other unit than the shop's is shown as it was typed, as long as it is that length. */
export function rememberTyped(text: string, mm: number, unit: Unit) {
  if (!(unit === "mm" ? /\d\s*(in\b|inch|ft\b|"|')/i : /\d\s*(mm|cm)\b/i).test(text)) return;
  const kept = Object.entries(typed())
    .filter(([k]) => k !== mm.toFixed(6))
    .slice(1 - MOST_TYPED);
  localStorage.setItem(TYPED, JSON.stringify(Object.fromEntries([...kept, [mm.toFixed(6), text.trim()]])));
}
export function typedAs(mm: number, unit: Unit): string | undefined {
  const text = typed()[mm.toFixed(6)];
  return text && (unit === "mm") !== /\d\s*(mm|cm)\b/i.test(text) ? text : undefined;
}

type FieldProps = {
  label: string;
  mm: number;
  onCommit: (mm: number) => void;
  least?: number;
  hint?: string;
  digits?: number;
};

/** A length field: reads fractions, units and arithmetic, and shows the other unit beside what is typed. */
export function LengthField({ label, mm, onCommit, hint, digits }: FieldProps) {
  const { unit } = useUnit();
  const shown = typedAs(mm, unit) ?? bare(mm, unit, digits);
  const [text, setText] = useState(shown);
  const [aside, setAside] = useState("");
  const [wrong, setWrong] = useState("");
  const dirty = useRef(false);
  const id = useId();
  useEffect(() => {
    if (!dirty.current) setText(shown);
  }, [shown]);
  useEffect(() => {
    if (!dirty.current) {
      setAside(length(mm, unit === "mm" ? "in" : "mm"));
      setWrong("");
      return;
    }
    const timer = setTimeout(() => {
      readLength(text, unit)
        .then((r) => {
          setAside(
            [r.said, `${length(r.mm, unit)} · ${length(r.mm, unit === "mm" ? "in" : "mm")}`]
              .filter(Boolean)
              .join("  "),
          );
          setWrong("");
        })
        .catch((e: Error) => setWrong(e.message));
    }, 150);
    return () => clearTimeout(timer);
  }, [text, unit, mm]);
  const commit = async () => {
    if (!dirty.current) return;
    try {
      const r = await readLength(text, unit);
      dirty.current = false;
      rememberTyped(text, r.mm, unit);
      setText(typedAs(r.mm, unit) ?? bare(r.mm, unit, digits));
      if (Math.abs(r.mm - mm) > 1e-6) onCommit(r.mm);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_6.2rem] items-baseline gap-x-2 py-0.5">
      <label htmlFor={id} className="label">
        {label}
      </label>
      <input
        id={id}
        className="field text-right"
        value={text}
        inputMode="text"
        autoComplete="off"
        spellCheck={false}
        aria-invalid={!!wrong}
        aria-describedby={`${id}-aside`}
        onChange={(e) => {
          dirty.current = true;
          setText(e.target.value);
        }}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") {
            dirty.current = false;
            setText(shown);
            setWrong("");
            e.currentTarget.blur(); // keys are shortcuts again
          }
        }}
      />
      <span
        id={`${id}-aside`}
        className={`col-span-2 text-right text-fine ${wrong ? "text-stop" : "num text-quiet"}`}
        role={wrong ? "alert" : undefined}
      >
        {wrong || [hint, aside].filter(Boolean).join("  ")}
      </span>
    </div>
  );
}

export function UnitSwitch() {
  const { unit, setUnit } = useUnit();
  return (
    <button
      className="num whitespace-nowrap px-2 py-1 text-plain"
      onClick={() => setUnit(unit === "mm" ? "in" : "mm")}
      aria-label={`mm / in: ${unit === "mm" ? "millimetres" : "inches"} are shown, switch the unit`}
    >
      <span className={unit === "mm" ? "font-medium underline underline-offset-4" : "text-quiet"}>mm</span>
      <span className="text-quiet"> / </span>
      <span className={unit === "in" ? "font-medium underline underline-offset-4" : "text-quiet"}>in</span>
    </button>
  );
}
