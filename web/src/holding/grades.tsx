/** How firmly a piece is held, in words, patterns and figures. */
import type { SheetPlan } from "../api/model";

export const times = (r: number | null | undefined) =>
  r === null || r === undefined
    ? "-"
    : r >= 99
      ? "99+"
      : r >= 10
        ? Math.floor(r).toFixed(0)
        : (Math.floor(r * 10 + 1e-6) / 10).toFixed(1); // never rounded up over what is judged

/** The four grades of hold, told apart by pattern and word as well as by tone. */
export type Grade = "whole" | "firm" | "enough" | "thin" | "short";
export const gradeOf = (r: number | null | undefined, margin: number): Grade =>
  r === undefined
    ? "whole"
    : r === null || r >= 2 * margin
      ? "firm"
      : r >= margin
        ? "enough"
        : r >= 1
          ? "thin"
          : "short";
export const GRADES: [Grade, string][] = [
  ["whole", "part of the sheet"],
  ["firm", "firm"],
  ["enough", "enough"],
  ["thin", "thin"],
  ["short", "too little"],
];
/** Fill of a grade in a drawing that brought the patterns under a name of its own. */
export const gradeFill = (g: Grade, name: string) =>
  ({
    whole: "rgba(250,244,230,.45)",
    firm: "#a5cabf",
    enough: `url(#enough-${name})`,
    thin: `url(#thin-${name})`,
    short: `url(#short-${name})`,
  })[g];

/** Patterns of the scale. ``k``: pixels to a unit of the drawing they are used in. */
export const HoldPatterns = ({ name, k = 1 }: { name: string; k?: number }) => (
  <>
    <pattern
      id={`enough-${name}`}
      width="9"
      height="9"
      patternUnits="userSpaceOnUse"
      patternTransform={`scale(${1 / k})`}
    >
      <rect width="9" height="9" fill="#dbe8de" />
      <path d="M0 4.5H9" stroke="#6f9c8f" strokeWidth="1" />
    </pattern>
    <pattern
      id={`thin-${name}`}
      width="8"
      height="8"
      patternUnits="userSpaceOnUse"
      patternTransform={`scale(${1 / k})`}
    >
      <rect width="8" height="8" fill="#f4e2b4" />
      <circle cx="4" cy="4" r="1.7" fill="#8a5a00" />
    </pattern>
    <pattern
      id={`short-${name}`}
      width="8"
      height="8"
      patternUnits="userSpaceOnUse"
      patternTransform={`scale(${1 / k}) rotate(45)`}
    >
      <rect width="8" height="8" fill="#fbeee9" />
      <path d="M0 0V8M0 0H8" stroke="#a92f22" strokeWidth="2" />
    </pattern>
  </>
);

/** Index of the last cut that is done at a moment; -1 before the first. */
export const cutAt = (plan: SheetPlan | undefined, time: number | null) =>
  !plan
    ? -1
    : time === null
      ? plan.cuts.length - 1
      : plan.cuts.findLastIndex((c) => c.begins + c.seconds <= time + 0.005);

/** How many times its load holds a piece at a moment; undefined while it is part of the sheet. Without a moment: the least of the whole program. */
export function ratioAt(
  plan: SheetPlan | undefined,
  piece: string,
  time: number | null,
): number | null | undefined {
  const rows = plan?.hold?.pieces[piece];
  if (!rows?.length) return undefined;
  if (time === null)
    return rows.reduce(
      (least, [, r]) => (r === null ? least : least === null ? r : Math.min(least, r)),
      null as number | null,
    );
  const at = cutAt(plan, time),
    row = rows.findLast(([k]) => k <= at);
  return row ? row[1] : undefined;
}
