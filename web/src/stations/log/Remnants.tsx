import type { Job } from "../../api/model";
import { bare, useUnit } from "../../shared/lengths";
import { useYield } from "../yield/useYield";

type Props = {
  job: Job;
  at: { setup: string; sheet: string; copy: number };
  /** Places in the sheet's list of those that are thrown away all the same. */
  thrown: Set<number>;
  onThrow: (i: number, away: boolean) => void;
  place: string;
  onPlace: (p: string) => void;
};

/** Remnants that the plan keeps of a sheet. */
export const useKeptRemnants = (job: Job, at: Props["at"]) =>
  useYield(job).data?.sheets.find(
    (s) => s.setup === at.setup && s.sheet === at.sheet && s.sheet_copy === at.copy,
  )?.remnants ?? [];

/** The remnants that the plan keeps of a sheet, which go into the rack with the run unless one is thrown away. */
export function Remnants({ job, at, thrown, onThrow, place, onPlace }: Props) {
  const { unit } = useUnit();
  const kept = useKeptRemnants(job, at);
  if (!kept.length) return null;
  return (
    <fieldset className="border-t border-line pt-1">
      <legend className="label">into the rack</legend>
      {kept.map((r, i) => (
        <label key={i} className="flex gap-2">
          <input type="checkbox" checked={!thrown.has(i)} onChange={(e) => onThrow(i, !e.target.checked)} />
          <span>
            remnant{" "}
            <span className="num">
              {bare(r.width, unit, 0)} x {bare(r.height, unit, 0)} {unit}
            </span>
          </span>
        </label>
      ))}
      {thrown.size < kept.length && (
        <label className="flex items-baseline gap-2">
          <span className="label">place</span>
          <input
            className="field min-w-0 flex-1 !font-sans"
            aria-label="Place in the rack"
            maxLength={200}
            value={place}
            onChange={(e) => onPlace(e.target.value)}
          />
        </label>
      )}
    </fieldset>
  );
}
