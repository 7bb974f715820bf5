import { useEffect, useRef, useState, type ReactNode } from "react";

import { Pick } from "./Pick";
import {
  bare,
  inQuantity,
  plainNumber,
  type Quantity,
  readLength,
  rememberTyped,
  typedAs,
  useUnit,
} from "./lengths";

/** Words and numbers within a sentence that are changed where they stand. */

export function Why({ text, children }: { text?: string; children: ReactNode }) {
  const { unit } = useUnit();
  const [at, setAt] = useState<{ x: number; y: number } | null>(null);
  if (!text) return <>{children}</>;
  // beside what it explains, never over the window's edge
  const show = (e: { currentTarget: HTMLElement }) => {
    const r = e.currentTarget.getBoundingClientRect();
    setAt({
      x: Math.max(8, Math.min(window.innerWidth - 256, r.left + r.width / 2 - 124)),
      y: r.bottom > window.innerHeight - 120 ? r.top - 96 : r.bottom + 3,
    });
  };
  return (
    <span
      onMouseEnter={show}
      onMouseLeave={() => setAt(null)}
      onFocus={show}
      onBlur={() => setAt(null)}
      // a long press of a finger tells what the pointer is told by resting
      onContextMenu={(e) => {
        if ((e.nativeEvent as PointerEvent).pointerType !== "touch") return;
        e.preventDefault();
        show(e);
      }}
    >
      {children}
      {at && (
        <span
          role="tooltip"
          style={{ left: at.x, top: at.y }}
          className="pointer-events-none fixed z-40 w-[248px] border border-ink bg-[#fffdf8] p-2 font-sans text-small font-normal leading-snug text-ink shadow"
        >
          {inUnit(text, unit)}
        </span>
      )}
    </span>
  );
}

/** A word or a number that is explained where it stands, by pointer and keyboard. */
export const Told = ({ children }: { children: ReactNode }) => (
  <button type="button" className="num cursor-help underline decoration-dotted underline-offset-2">
    {children}
  </button>
);

const N = "\\d+(?:\\.\\d+)?";
const LENGTHS = new RegExp(`(?<![\\w.])(${N}(?:(?: x | to | and |, )-?${N})*) mm(2|/min)?(?![\\w/])`, "g"),
  SPEED = new RegExp(`(?<![\\w.])(${N}) m/min(?: \\(${N} in/min\\))?`, "g");
/** Four decimals under a tenth of an inch, three above: texts hold hundredths of a millimetre, more would be made up. */
const RUN = new RegExp(`(?<![\\w.])(${N}) m(?= (?:of|or|since|long|booked|cut)\\b)`, "g");
const CM2 = new RegExp(`(?<![\\w.])(${N}) cm2(?!\\w)`, "g");
const inches = (mm: number) => String(Number((mm / 25.4).toFixed(mm < 2.54 ? 4 : 3)));
/** Texts are worded in millimetres; a shop that works in inches reads them in inches, every number of them (as the papers do). */
export const inUnit = (text: string, unit: "mm" | "in") =>
  unit === "mm"
    ? text
    : text
        .replace(RUN, (_, v: string) => `${(Number(v) / 0.3048).toFixed(1)} ft`)
        .replace(SPEED, (_, v: string) => `${((Number(v) * 1000) / 25.4).toFixed(0)} in/min`)
        .replace(CM2, (_, v: string) => `${Number((Number(v) / 6.4516).toFixed(1))} sq in`)
        .replace(
          LENGTHS,
          (_, many: string, power?: string) =>
            many.replace(new RegExp(N, "g"), (v) =>
              power === "2" ? String(Number((Number(v) / 645.16).toFixed(4))) : inches(Number(v)),
            ) + (power === "2" ? " sq in" : power ? " in/min" : " in"),
        );

type LengthProps = {
  label: string;
  mm: number;
  why?: string;
  house?: boolean;
  onCommit: (mm: number) => void;
  onHouse?: () => void;
  digits?: number;
  /** Words where there is no one value. */
  unsaid?: string;
};

/** A length in the sentence: a click makes it a field that reads fractions, units and arithmetic. Cleared, it goes back to the house rule. */
export function LengthToken({ label, mm, why, house, onCommit, onHouse, digits, unsaid }: LengthProps) {
  const { unit } = useUnit();
  return (
    <Token
      label={label}
      why={why}
      house={house}
      onHouse={onHouse}
      shown={unsaid ?? typedAs(mm, unit) ?? `${bare(mm, unit, digits ?? 2)} ${unit}`}
      start={unsaid ? "" : (typedAs(mm, unit) ?? bare(mm, unit, digits))}
      read={async (text) => {
        const r = await readLength(text, unit);
        rememberTyped(text, r.mm, unit);
        if (unsaid || Math.abs(r.mm - mm) > 1e-6) onCommit(r.mm);
      }}
    />
  );
}

/** A plain number in the sentence. ``scale``: what is shown is the value times it. */
export function NumberToken({
  label,
  value,
  unit = "",
  scale = 1,
  digits = 0,
  why,
  house,
  onCommit,
  onHouse,
  least = 0,
  unsaid,
}: {
  label: string;
  value: number;
  unit?: string;
  scale?: number;
  digits?: number;
  why?: string;
  house?: boolean;
  onCommit: (v: number) => void;
  onHouse?: () => void;
  least?: number;
  /** Words where there is no one value. */
  unsaid?: string;
}) {
  const text = (value * scale).toFixed(digits);
  return (
    <Token
      label={label}
      why={why}
      house={house}
      onHouse={onHouse}
      shown={
        unsaid ??
        `${Number(text).toLocaleString("en-US", { minimumFractionDigits: digits, maximumFractionDigits: digits })}${unit}`
      }
      start={unsaid ? "" : text}
      read={async (t) => {
        const v = plainNumber(t);
        if (!Number.isFinite(v) || v < least)
          throw new Error(`give a number${least > 0 ? ` of at least ${least}` : ""}`);
        if (unsaid || Math.abs(v / scale - value) > 1e-9) onCommit(v / scale);
      }}
    />
  );
}

/** A speed, an acceleration or a strength, typed and shown in the shop's unit. */
export function QuantityToken({
  of,
  digits,
  ...rest
}: {
  of: Quantity;
  label: string;
  value: number;
  digits?: number;
  why?: string;
  house?: boolean;
  onCommit: (v: number) => void;
  onHouse?: () => void;
  least?: number;
  unsaid?: string;
}) {
  const { unit } = useUnit(),
    q = inQuantity(of, unit);
  return (
    <NumberToken
      {...rest}
      scale={q.scale}
      digits={unit === "mm" && digits !== undefined ? digits : q.digits}
      unit={` ${q.name}`}
    />
  );
}

function Token({
  label,
  shown,
  start,
  why,
  house,
  onHouse,
  read,
}: {
  label: string;
  shown: string;
  start: string;
  why?: string;
  house?: boolean;
  onHouse?: () => void;
  read: (text: string) => Promise<void>;
}) {
  const [text, setText] = useState<string | null>(null),
    [wrong, setWrong] = useState("");
  const field = useRef<HTMLInputElement>(null),
    closing = useRef(false);
  const open = text !== null;
  useEffect(() => {
    if (open) field.current?.select();
  }, [open]);
  const done = async () => {
    if (text === null || closing.current) return;
    closing.current = true;
    try {
      if (text.trim() === start) {
        // nothing was typed
      } else if (text.trim() === "" && onHouse) onHouse();
      else await read(text);
      setText(null);
      setWrong("");
    } catch (e) {
      setWrong((e as Error).message);
    }
    closing.current = false;
  };
  if (text === null)
    return (
      <Why text={why}>
        <button
          className={`num border-b border-dotted border-ink text-small ${house ? "" : "font-medium"}`}
          aria-label={`${label}: ${shown}`}
          onClick={() => setText(start)}
        >
          {shown}
        </button>
      </Why>
    );
  return (
    <span className="relative">
      <input
        ref={field}
        className="num w-[5.5rem] border-b-2 border-accent bg-white px-1 text-small"
        aria-label={label}
        value={text}
        spellCheck={false}
        autoComplete="off"
        aria-invalid={!!wrong}
        onChange={(e) => setText(e.target.value)}
        onBlur={done}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") {
            e.preventDefault();
            done();
          }
          if (e.key === "Escape") {
            setText(null);
            setWrong("");
          }
        }}
      />
      {wrong ? (
        <span
          role="alert"
          className="absolute left-0 top-full z-30 w-56 border border-stop bg-stop-soft p-1 text-fine text-stop"
        >
          {wrong}
        </span>
      ) : (
        onHouse && (
          <span className="absolute left-0 top-full z-30 whitespace-nowrap bg-[#fffdf8] px-1 text-fine text-quiet shadow">
            empty: house rule
          </span>
        )
      )}
    </span>
  );
}

/** One of a few words; a native list, quiet until it is used. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onPick,
  why,
  wide,
}: {
  label: string;
  value: T;
  options: [T, string][];
  onPick: (v: T) => void;
  why?: string;
  wide?: boolean;
}) {
  return (
    <Why text={why}>
      <Pick
        look="token"
        className={wide ? "max-w-[12.5rem]" : ""}
        label={label}
        value={value}
        options={options}
        onPick={onPick}
      />
    </Why>
  );
}
