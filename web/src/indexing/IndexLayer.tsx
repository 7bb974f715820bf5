import type { AlongTable, Setup, Stock } from "../api/model";

const INK = "#21262a",
  TEAL = "#1c4e49";

/** Of long stock what is reached at each position, where cuts are made in lengths, and the holes for its pins, in the sheet's coordinates. */
export function IndexLayer({
  setup,
  stock,
  copy,
  position = 1,
  k,
}: {
  setup: Setup;
  stock: Stock;
  copy: number;
  position?: number;
  k: number;
}) {
  const long = setup.long?.along;
  if (!long) return null;
  const upright = long.indexing.axis === "y";
  return (
    <g pointerEvents="none" aria-label="Positions of the stock">
      <g transform={upright ? "matrix(0 1 1 0 0 0)" : undefined}>
        {long.seams
          .filter((s) => s.sheet === stock.id && s.sheet_copy === copy)
          .map((s) => (
            <Twice key={s.at} seam={s} across={upright ? stock.width : stock.height} k={k} />
          ))}
        {long.positions.map((p) => (
          <Reach
            key={p.number}
            p={p}
            here={p.number === position}
            size={upright ? stock.height : stock.width}
            upright={upright}
            k={k}
          />
        ))}
      </g>
      {long.holes.map((h) => (
        <g
          key={`${h.pin} ${h.position}`}
          data-testid="pin-hole"
          transform={`translate(${h.x} ${h.y})`}
          stroke={INK}
          strokeWidth={1.3}
        >
          <circle
            r={Math.max(h.diameter / 2, 3 / k)}
            fill={h.position === position ? INK : "#fffdf8"}
            vectorEffect="non-scaling-stroke"
          />
          <title>{`hole of pin ${h.pin} for position ${h.position}`}</title>
        </g>
      ))}
    </g>
  );
}

/** A bracket along the stock for what one position reaches, with its number. */
function Reach({
  p,
  here,
  size,
  upright,
  k,
}: {
  p: AlongTable["positions"][number];
  here: boolean;
  size: number;
  upright: boolean;
  k: number;
}) {
  const px = 1 / k,
    low = Math.max(0, p.reach[0]),
    high = Math.min(size, p.reach[1]),
    y = -(8 + 15 * p.number) * px;
  if (high <= low) return null;
  return (
    <g stroke={TEAL} strokeWidth={here ? 2.6 : 1.2} fill="none">
      <path
        d={`M${low} ${y + 5 * px}V${y}H${high}V${y + 5 * px}`}
        vectorEffect="non-scaling-stroke"
        opacity={here ? 1 : 0.75}
      />
      <text
        transform={`translate(${(low + high) / 2} ${y}) ${upright ? "matrix(0 1 1 0 0 0)" : ""} scale(${px} ${-px})`}
        y={-3}
        fontSize={12}
        textAnchor="middle"
        fill={TEAL}
        stroke="#fffdf8"
        strokeWidth={3}
        paintOrder="stroke"
        fontWeight={here ? 700 : 400}
      >
        {p.number}
      </text>
    </g>
  );
}

/** What is cut at both neighbours of a seam. */
function Twice({ seam, across, k }: { seam: AlongTable["seams"][number]; across: number; k: number }) {
  const [low, high] = seam.twice;
  const wide = Math.max(high - low, 3 / k);
  return (
    <g>
      <rect x={(low + high - wide) / 2} width={wide} y={0} height={across} fill="#c98a1b" opacity={0.28} />
      <path
        d={`M${seam.at} ${-6 / k}V${across + 6 / k}`}
        stroke="#8a5a00"
        strokeWidth={1.5}
        strokeDasharray="7 4"
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}
