import { type Job, type Setup } from "../../api/model";
import { bare, useUnit } from "../../shared/lengths";
import { money } from "../../shared/money";
import { fill, Patterns } from "./kinds";
import { type UsedSheet, useDrawn } from "./useYield";

const DRAWN = ["skeleton", "edge", "drops", "remnant", "kerf"] as const;

/** A sheet to scale as what becomes of it, with what is kept marked by size and worth. */
export function SheetFigure({ job, setup, use, n }: { job: Job; setup: Setup; use: UsedSheet; n: number }) {
  const { unit } = useUnit();
  const drawn = useDrawn(job, use).data;
  const stock = setup.stock.find((s) => s.id === use.sheet)!;
  const parts = new Map(job.parts.map((p) => [p.id, p]));
  const k = Math.max(stock.width, stock.height) / 700;
  const share = `${(use.utilisation.parts_of_sheet * 100).toFixed(1)} %`;
  const pieces = setup.pieces.filter((p) => p.sheet === use.sheet && p.sheet_copy === use.sheet_copy);
  return (
    <figure className="border border-line bg-paper p-3">
      <figcaption className="mb-1 flex items-baseline gap-4">
        <b className="font-semibold">Sheet {n}</b>
        <span className="label truncate">{stock.name}</span>
        <span className="label ml-auto whitespace-nowrap">
          {use.remnants.length
            ? `keeps ${use.remnants.map((r) => `${bare(r.width, unit, 0)} x ${bare(r.height, unit, 0)}`).join(", ")} ${unit}`
            : "nothing worth keeping"}
        </span>
        <span className="num text-figure">{share}</span>
      </figcaption>
      <svg
        viewBox={`${-2 * k} ${-stock.height - 2 * k} ${stock.width + 4 * k} ${stock.height + 4 * k}`}
        className="max-h-[46vh] w-full"
        role="img"
        aria-label={`Sheet ${n}: ${share} are parts`}
      >
        <Patterns k={k} />
        <g transform="scale(1 -1)">
          {stock.outline.length > 2 ? (
            <polygon
              points={stock.outline.map((q) => q.join(",")).join(" ")}
              fill="#ddd0b4"
              stroke="#21262a"
              strokeWidth={1.6 * k}
            />
          ) : (
            <rect
              width={stock.width}
              height={stock.height}
              fill="#ddd0b4"
              stroke="#21262a"
              strokeWidth={1.6 * k}
            />
          )}
          {drawn && DRAWN.map((d) => <path key={d} d={drawn[d]} fillRule="evenodd" fill={fill(d)} />)}
          {pieces.map((p) => (
            <path
              key={p.id}
              d={parts
                .get(p.part)
                ?.contours.map((c) => c.d)
                .join("")}
              fillRule="evenodd"
              transform={`translate(${p.x} ${p.y}) rotate(${p.rotation})${p.mirrored ? " scale(-1 1)" : ""}`}
              fill={fill("parts")}
              stroke={drawn ? "none" : "#21262a"}
              strokeWidth={k}
            />
          ))}
          {use.remnants.map((r, i) => (
            <polygon
              key={i}
              points={r.corners.map((q) => q.join(",")).join(" ")}
              fill="none"
              stroke="#1c4e49"
              strokeWidth={1.8 * k}
              strokeDasharray={`${8 * k} ${5 * k}`}
            />
          ))}
        </g>
        {use.remnants.map((r, i) => (
          <RemnantWords key={i} r={r} k={k} currency={setup.rules.currency} />
        ))}
      </svg>
    </figure>
  );
}

function RemnantWords({ r, k, currency }: { r: UsedSheet["remnants"][number]; k: number; currency: string }) {
  const { unit } = useUnit();
  const xs = r.corners.map((c) => c[0]),
    ys = r.corners.map((c) => c[1]);
  const x = (Math.min(...xs) + Math.max(...xs)) / 2,
    y = -(Math.min(...ys) + Math.max(...ys)) / 2;
  const upright = r.height > 1.6 * r.width;
  const words = `keep ${bare(r.width, unit, 0)} x ${bare(r.height, unit, 0)}${r.value ? `, ${money(r.value, currency)}` : ""}`;
  const size = Math.min(16 * k, (Math.max(r.width, r.height) * 0.92) / (words.length * 0.46));
  return (
    <text
      x={x}
      y={y}
      textAnchor="middle"
      dominantBaseline="central"
      fontSize={size}
      fontWeight={600}
      fill="#143b37"
      stroke="#faf6ee"
      strokeWidth={3.5 * k}
      paintOrder="stroke"
      transform={upright ? `rotate(-90 ${x} ${y})` : undefined}
    >
      {words}
    </text>
  );
}
