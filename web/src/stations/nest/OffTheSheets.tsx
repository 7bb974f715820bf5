import { useJobView } from "../../job/view";

/** Pieces that are wanted and lie nowhere. */
export function OffTheSheets() {
  const { job, setup, edits, sheet } = useJobView();
  const unplaced = Object.entries(setup.layout.unplaced);
  if (!unplaced.length || !setup.pieces.length) return null;
  return (
    <section className="mt-3">
      <h3 className="font-semibold">Off the sheets</h3>
      <ul>
        {unplaced.map(([id, n]) => {
          const p = job.parts.find((v) => v.id === id)!;
          const used = new Set(setup.pieces.filter((q) => q.part === id).map((q) => q.copy_no));
          const free = [...Array(p.quantity).keys()].find((c) => !used.has(c)) ?? 0;
          return (
            <li key={id} className="rule flex items-center justify-between gap-2 py-1">
              <span>
                {n} x {p.name}
              </span>
              <button
                className="key"
                onClick={() =>
                  edits.run({
                    kind: "find-place",
                    setup: setup.id,
                    part: id,
                    copy_no: free,
                    sheet: sheet[0],
                    sheet_copy: sheet[1],
                  })
                }
              >
                Put on this sheet
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
