import { type Edits } from "../../api/edits";
import { type Job, type Setup } from "../../api/model";
import { useLibrary } from "../../api/queries";
import { fill } from "./kinds";
import type { Outcome } from "./useWhatIfs";

type Props = { job: Job; setup: Setup; outcome: Outcome; edits: Edits };
const MOST = 8;
/** Sheets that are drawn; the others are like them. */

/** The sheets that were found cheapest, drawn with the order on them, and how they come into the setup. */
export function Laid({ job, setup, outcome, edits }: Props) {
  const library = useLibrary().data;
  const parts = new Map(job.parts.map((p) => [p.id, p]));
  const sheets = [...new Set(outcome.layout.map((p) => `${p.sheet}/${p.sheet_copy}`))].sort();
  const widest = Math.max(...outcome.kinds.map((k) => k.width));
  const counts = outcome.lines[0]?.counts ?? {};
  const missing = Object.keys(counts).filter((id) => !setup.stock.some((s) => s.id === id));
  const take = () => {
    for (const id of missing) {
      const found = library?.stock.find((s) => s.id === id);
      if (!found) continue;
      const { material: _m, thickness: _t, spread: _s, ...kind } = found;
      edits.run({
        kind: "set-stock",
        setup: setup.id,
        stock: { ...kind, readings: [], quantity: counts[id] },
      });
    }
  };
  return (
    <>
      <div className="mt-2 flex flex-wrap gap-2">
        {sheets.slice(0, MOST).map((at) => {
          const pieces = outcome.layout.filter((p) => `${p.sheet}/${p.sheet_copy}` === at);
          const kind = outcome.kinds.find((k) => k.id === pieces[0].sheet)!;
          const k = widest / 240;
          return (
            <svg
              key={at}
              viewBox={`${-k} ${-kind.height - k} ${kind.width + 2 * k} ${kind.height + 2 * k}`}
              style={{ width: 240 * (kind.width / widest) }}
              role="img"
              aria-label={`${kind.name}: ${pieces.length} piece${pieces.length === 1 ? "" : "s"}`}
            >
              <g transform="scale(1 -1)">
                <rect
                  width={kind.width}
                  height={kind.height}
                  fill="#ddd0b4"
                  stroke="#21262a"
                  strokeWidth={1.4 * k}
                />
                {pieces.map((p, i) => (
                  <path
                    key={i}
                    d={parts
                      .get(p.part)
                      ?.contours.map((c) => c.d)
                      .join("")}
                    fillRule="evenodd"
                    transform={`translate(${p.x} ${p.y}) rotate(${p.rotation})${p.mirrored ? " scale(-1 1)" : ""}`}
                    fill={fill("parts")}
                    stroke="#21262a"
                    strokeWidth={0.7 * k}
                  />
                ))}
              </g>
            </svg>
          );
        })}
      </div>
      {sheets.length > MOST && <p className="label">and {sheets.length - MOST} more</p>}
      {missing.length > 0 && (
        <button className="key mt-2" onClick={take}>
          Put {missing.length === 1 ? "this sheet" : "these sheets"} into the setup
        </button>
      )}
    </>
  );
}
