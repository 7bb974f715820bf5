/** What becomes of a sheet, in the order of the bar: how each is drawn, and what it is in words. */
export const KINDS = ["parts", "kerf", "drops", "skeleton", "edge", "remnant"] as const;
export type Kind = (typeof KINDS)[number];

export const SAYS: Record<Kind, string> = {
  parts: "the pieces, less their holes",
  kerf: "what the cutters take, as chips",
  drops: "waste out of holes of pieces",
  skeleton: "what stands between the pieces",
  edge: "the margin along the sheet's edge",
  remnant: "kept for another job",
};

const FILLS: Record<Kind, string> = {
  parts: "#fdf8ec",
  kerf: "#3b3f42",
  drops: "url(#use-drops)",
  skeleton: "url(#use-skeleton)",
  edge: "url(#use-edge)",
  remnant: "url(#use-remnant)",
};
export const fill = (k: Kind) => FILLS[k];

/** The patterns; ``k``: mm of the drawing to a point of the screen, so that they look alike at any size. */
export function Patterns({ k = 1 }: { k?: number }) {
  const size = (n: number) => n * k;
  return (
    <defs>
      <pattern id="use-drops" width={size(6)} height={size(6)} patternUnits="userSpaceOnUse">
        <rect width={size(6)} height={size(6)} fill="#e8dcc3" />
        <circle cx={size(3)} cy={size(3)} r={size(1.2)} fill="#7a6a48" />
      </pattern>
      <pattern id="use-skeleton" width={size(5)} height={size(5)} patternUnits="userSpaceOnUse">
        <rect width={size(5)} height={size(5)} fill="#d9c9a8" />
        <path d={`M0 ${size(5)}L${size(5)} 0`} stroke="#b39d70" strokeWidth={size(0.7)} />
      </pattern>
      <pattern id="use-edge" width={size(4)} height={size(4)} patternUnits="userSpaceOnUse">
        <rect width={size(4)} height={size(4)} fill="#cdbb95" />
        <path d={`M0 ${size(2)}H${size(4)}`} stroke="#97835a" strokeWidth={size(0.8)} />
      </pattern>
      <pattern
        id="use-remnant"
        width={size(9)}
        height={size(9)}
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width={size(9)} height={size(9)} fill="#f2f4ea" />
        <path d={`M0 0V${size(9)}`} stroke="#1c4e49" strokeWidth={size(1.6)} opacity=".45" />
      </pattern>
    </defs>
  );
}
