import type { XY } from "../api/model";

/** A cutter seen from the side, to scale: its profile from tip to shank, the edge darker than the shank. */
export function CutterDrawing({
  points,
  width,
  height,
  edge,
  label,
  kind,
}: {
  points: XY[];
  width: number;
  height: number;
  edge?: number;
  label?: string;
  kind?: string;
}) {
  if (!points?.length) return null;
  const top = points[points.length - 1][1],
    wide = Math.max(...points.map((p) => p[0])) * 2,
    k = Math.min((width - 6) / wide, (height - 6) / top);
  const at = ([r, h]: XY, side: 1 | -1) =>
    `${(width / 2 + side * r * k).toFixed(2)} ${(height - 3 - h * k).toFixed(2)}`;
  const body = (list: XY[]) =>
    `M${list.map((p) => at(p, 1)).join("L")}L${[...list]
      .reverse()
      .map((p) => at(p, -1))
      .join("L")}Z`;
  const cut = edge ?? points[points.length - 3]?.[1] ?? top,
    low = points.filter((p) => p[1] <= cut + 1e-6);
  // how the flutes wind: chips go up the slant; a compression cutter winds both ways
  const winds: string[] = [],
    pitch = Math.max(7, wide * k * 0.42),
    id = `edge-${kind ?? "x"}-${width}-${Math.round(wide * 100)}-${Math.round(cut * 10)}`;
  const slant = (from: number, to: number, way: number) => {
    for (let h = from; h < to + wide * k; h += pitch)
      winds.push(
        `M${width / 2 - (wide * k) / 2} ${height - 3 - h + (way > 0 ? 0 : -wide * k * 0.7)}L${width / 2 + (wide * k) / 2} ${height - 3 - h + (way > 0 ? -wide * k * 0.7 : 0)}`,
      );
  };
  const tall = cut * k,
    third = kind === "compression" ? Math.min(tall, wide * k) : 0;
  if (["up-cut", "single-flute", "roughing", "ball", "drill"].includes(kind ?? "")) slant(-wide * k, tall, 1);
  if (kind === "down-cut") slant(-wide * k, tall, -1);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={label ?? "cutter, side view"}
      className="shrink-0"
    >
      <path d={body(points)} fill="#e6e1d4" stroke="#21262a" strokeWidth="1" />
      {low.length > 1 && <path d={body(low)} fill="#b9c7c2" stroke="#21262a" strokeWidth="1.2" />}
      {winds.length > 0 && (
        <>
          <clipPath id={id}>
            <path d={body(low)} />
          </clipPath>
          <path
            clipPath={`url(#${id})`}
            d={winds.join("")}
            stroke="#4f655f"
            strokeWidth={kind === "roughing" ? 1.6 : 0.9}
            strokeDasharray={kind === "roughing" ? "2 1.4" : undefined}
            fill="none"
          />
        </>
      )}
      {kind === "compression" &&
        [
          [0, third, 1],
          [third, tall, -1],
        ].map(([a, b, way], i) => (
          <g key={i}>
            <clipPath id={`${id}${i}`}>
              <rect x={0} y={height - 3 - b} width={width} height={b - a} />
            </clipPath>
            <path
              clipPath={`url(#${id}${i})`}
              stroke="#4f655f"
              strokeWidth="0.9"
              fill="none"
              d={Array.from({ length: 40 }, (_, n) => a - wide * k + n * pitch)
                .filter((h) => h < b + wide * k)
                .map(
                  (h) =>
                    `M${width / 2 - (wide * k) / 2 + 1} ${height - 3 - h + (way > 0 ? 0 : -wide * k * 0.7)}L${width / 2 + (wide * k) / 2 - 1} ${height - 3 - h + (way > 0 ? -wide * k * 0.7 : 0)}`,
                )
                .join("")}
            />
          </g>
        ))}
      <path
        d={`M${width / 2} 1V${height - 1}`}
        stroke="#625d53"
        strokeWidth="0.7"
        strokeDasharray="6 2 1.5 2"
      />
    </svg>
  );
}
