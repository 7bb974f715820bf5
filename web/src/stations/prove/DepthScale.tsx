import { length, useUnit } from "../../shared/lengths";

/** Tones of depth, as the picture has them. */
const TONES = ["#f5ecd6", "#c4ccc4", "#78989a", "#345c64"];

/** What the tones of a sheet as it is cut mean. */
export function DepthScale({
  thickness,
  step,
  above,
}: {
  thickness: number;
  step: number;
  /** Above the keys, where these take all of the line. */
  above?: boolean;
}) {
  const { unit } = useUnit();
  return (
    <div
      data-over
      className={`pointer-events-none absolute ${above ? "bottom-16" : "bottom-8"} right-2 flex items-center gap-2 bg-paper/90 max-md:hidden px-2 py-0.5 text-fine`}
    >
      <span>face</span>
      <i
        aria-hidden
        className="inline-block h-3 w-24 border border-line"
        style={{ background: `linear-gradient(90deg, ${TONES.join(",")})` }}
      />
      <span className="num">{length(thickness, unit)}</span>
      <i
        aria-hidden
        className="inline-block h-3 w-6 border border-line"
        style={{ background: "repeating-linear-gradient(135deg,#d6cdbe 0 4px,#a89f90 4px 5px)" }}
      />
      <span>cut through</span>
      <span className="label">a line every {length(step, unit)}</span>
    </div>
  );
}
