import type { CutMoment } from "../api/model";
import { bare, quantity, useUnit } from "../shared/lengths";
import { WAYS } from "../table/WayLayer";

const LINES = ["level", "slope", "down", "fast"] as const;

/** Where the tip is at the moment, how it moves and how fast, with what the lines of its way mean. */
export function MomentSaid({ moment: m }: { moment: CutMoment }) {
  const { unit } = useUnit();
  const digits = unit === "mm" ? 1 : 2;
  const [x, y, z] = m.at.map((v) => bare(v, unit, digits));
  const slow = m.wanted > 0 && m.reached < 0.95 * m.wanted && m.motion !== "fast";
  return (
    <span className="ml-auto flex items-baseline gap-x-3 whitespace-nowrap">
      <span data-testid="moment">
        <span className="num">
          X {x} Y {y} Z {z}
        </span>{" "}
        {WAYS[m.motion].word}
        {m.motion !== "stands" && (
          <span className="num">
            {" "}
            {slow && `${quantity(m.reached, "feed", unit)} of `}
            {quantity(m.wanted, "feed", unit)}
          </span>
        )}
      </span>
      <span className="flex gap-x-2.5 max-xl:hidden" aria-hidden>
        {LINES.map((k) => (
          <span key={k} className="label inline-flex items-center gap-1">
            <svg width="28" height="6">
              <path d="M0 3H28" stroke="#21262a" strokeWidth={WAYS[k].width} strokeDasharray={WAYS[k].dash} />
            </svg>
            {WAYS[k].word}
          </span>
        ))}
      </span>
    </span>
  );
}
