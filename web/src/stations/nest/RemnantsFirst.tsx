import { useJobView } from "../../job/view";
import { useRackOfJob } from "../../rack/rack";
import { bare, useUnit } from "../../shared/lengths";

/** Remnants in the rack that the nest could use before new sheets: each at what it is worth, so that it is used where that is cheaper. */
export function RemnantsFirst() {
  const { job, setup, edits } = useJobView();
  const { unit } = useUnit();
  const found = useRackOfJob(job.id, job.revision).data?.offered[setup.id] ?? [];
  const remnants = found.filter((s) => s.lot.remnant);
  if (!remnants.length) return null;
  return (
    <section aria-label="Remnants in the rack" className="mt-3 border-t border-line pt-2">
      <h3 className="font-semibold">In the rack</h3>
      {remnants.map((s) => (
        <p key={s.lot.id} className="flex items-baseline gap-2">
          <b className="num font-medium">{s.lot.label}</b>
          <span className="label">
            {bare(s.lot.width, unit, 0)} x {bare(s.lot.height, unit, 0)}
            {s.lot.place && `, ${s.lot.place}`}
          </span>
          <button
            className="key ml-auto !py-0"
            aria-label={`Use ${s.lot.label} for this setup`}
            onClick={() => edits.fromRack(setup.id, s.lot.id)}
          >
            Use
          </button>
        </p>
      ))}
      <p className="label">
        Taken into the setup, the next nest lays pieces on them where that costs less than a new sheet.
      </p>
    </section>
  );
}
