import { type Job, type Setup } from "../../api/model";
import { bare, useUnit } from "../../shared/lengths";

export function YieldBoard({ job, setup }: { job: Job; setup: Setup }) {
  const { unit } = useUnit();
  const parts = new Map(job.parts.map((p) => [p.id, p]));
  if (!setup.yields.sheets.length)
    return (
      <p className="grid h-full place-items-center text-quiet">Nothing is nested yet, so nothing is used.</p>
    );
  return (
    <div
      className="grid h-full auto-rows-min gap-4 overflow-auto p-4"
      role="region"
      aria-label="Sheets as they are used"
      tabIndex={0}
    >
      {setup.yields.sheets.map((s, i) => {
        const stock = setup.stock.find((k) => k.id === s.sheet)!;
        return (
          <figure key={`${s.sheet}/${s.copy_no}`} className="border border-line bg-paper p-3">
            <figcaption className="mb-1 flex items-baseline gap-4">
              <b className="font-semibold">Sheet {i + 1}</b>
              <span className="label">{stock.name}</span>
              <span className="num ml-auto text-figure">{(s.utilisation * 100).toFixed(1)} %</span>
            </figcaption>
            <svg
              viewBox={`-2 ${-stock.height - 2} ${stock.width + 4} ${stock.height + 4}`}
              className="max-h-[300px] w-full"
              role="img"
              aria-label={`Sheet ${i + 1}: ${(s.utilisation * 100).toFixed(1)} % used`}
            >
              <defs>
                <pattern
                  id={`left-${i}`}
                  width="26"
                  height="26"
                  patternUnits="userSpaceOnUse"
                  patternTransform="rotate(45)"
                >
                  <rect width="26" height="26" fill="#f4eedf" />
                  <path d="M0 0V26" stroke="#1c4e49" strokeWidth="5" opacity=".35" />
                </pattern>
              </defs>
              <g transform="scale(1 -1)">
                {stock.outline.length > 2 ? (
                  <polygon
                    points={stock.outline.map((q) => q.join(",")).join(" ")}
                    fill="#ddd0b4"
                    stroke="#21262a"
                    strokeWidth={4}
                  />
                ) : (
                  <rect
                    width={stock.width}
                    height={stock.height}
                    fill="#ddd0b4"
                    stroke="#21262a"
                    strokeWidth={4}
                  />
                )}
                {setup.pieces
                  .filter((p) => p.sheet === s.sheet && p.sheet_copy === s.copy_no)
                  .map((p) => (
                    <path
                      key={p.id}
                      d={parts
                        .get(p.part)
                        ?.contours.map((c) => c.d)
                        .join("")}
                      fillRule="evenodd"
                      transform={`translate(${p.x} ${p.y}) rotate(${p.rotation})${p.mirrored ? " scale(-1 1)" : ""}`}
                      fill="#fbf5e6"
                      stroke="#21262a"
                      strokeWidth={2.5}
                    />
                  ))}
                {s.remnant && (
                  <rect
                    x={stock.width - s.remnant[0]}
                    y={0}
                    width={s.remnant[0]}
                    height={s.remnant[1]}
                    fill={`url(#left-${i})`}
                    stroke="#1c4e49"
                    strokeWidth={4}
                    strokeDasharray="18 12"
                  />
                )}
              </g>
              {s.remnant && s.remnant[0] > 150 && (
                <text
                  x={stock.width - s.remnant[0] / 2}
                  y={-stock.height / 2}
                  textAnchor="middle"
                  fontSize={Math.min(52, s.remnant[0] / 6)}
                  fill="#1c4e49"
                  fontWeight={600}
                >
                  keeps {bare(s.remnant[0], unit, unit === "mm" ? 0 : 1)} x{" "}
                  {bare(s.remnant[1], unit, unit === "mm" ? 0 : 1)}
                </text>
              )}
            </svg>
          </figure>
        );
      })}
    </div>
  );
}
