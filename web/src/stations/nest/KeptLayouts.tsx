import { useJobView } from "../../job/view";
import { length, useUnit } from "../../shared/lengths";
import { Thumb } from "./Thumb";

/** Layouts laid aside to compare, each with its picture and figures. */
export function KeptLayouts() {
  const { job, setup, edits } = useJobView();
  const { unit } = useUnit();
  if (!setup.kept.length) return null;
  return (
    <section className="mt-3" aria-label="Kept layouts">
      <h3 className="font-semibold">Kept layouts</h3>
      <ul className="grid grid-cols-2 gap-2">
        {setup.kept.map((k) => (
          <li key={k.id} className="border border-line bg-paper p-1.5">
            <Thumb job={job} setup={setup} kept={k} />
            <p className="num text-small">
              {k.sheets} sheet{k.sheets === 1 ? "" : "s"}, {(k.yield * 100).toFixed(1)} %
            </p>
            <p className="label">
              {k.placed} pieces, last to {length(k.last, unit, unit === "mm" ? 0 : 1)}
              {k.current ? "" : "; made for other inputs"}
            </p>
            <p className="mt-1 flex gap-1">
              <button
                className="key !py-0.5 text-small"
                onClick={() => edits.run({ kind: "use-layout", setup: setup.id, id: k.id })}
              >
                Use
              </button>
              <button
                className="key !py-0.5 text-small"
                onClick={() => edits.run({ kind: "forget-layout", setup: setup.id, id: k.id })}
              >
                Forget
              </button>
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
