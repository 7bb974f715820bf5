import type { XY } from "../../api/model";
import { length, useUnit } from "../../shared/lengths";
import { useUnderPointer } from "./asCut";

/** Depth and width of the cut under the pointer, or how thick what stands there is. */
export function Under({ at }: { at: XY | null }) {
  const { unit } = useUnit();
  const found = useUnderPointer(at);
  if (!found) return null;
  const wide = found.across === null ? "" : length(found.across, unit, unit === "mm" ? 1 : 2);
  return (
    <div role="status" data-testid="under-pointer">
      {found.depth < 0.005
        ? wide
          ? `stands, ${wide} between cuts`
          : "stands"
        : `${found.through ? "cut through" : `${length(found.depth, unit)} deep`}${wide && `, ${wide} across`}`}
      {found.above_model !== null && found.above_model !== undefined && (
        <>, {overModel(found.above_model, unit)}</>
      )}
      {found.stands !== null && found.stands !== undefined && !found.through && (
        <>, {length(found.stands, unit, unit === "mm" ? 2 : 3)} left by both faces</>
      )}
    </div>
  );
}

/** How what stands compares with the relief as it is to come out. */
const overModel = (mm: number, unit: "mm" | "in") =>
  Math.abs(mm) < 0.005
    ? "on the model"
    : `${length(Math.abs(mm), unit, unit === "mm" ? 2 : 3)} ${mm > 0 ? "above the model" : "into the model"}`;
