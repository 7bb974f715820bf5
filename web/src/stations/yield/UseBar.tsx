import { useId } from "react";

import { fill, KINDS, Patterns, SAYS } from "./kinds";

const WIDE = 1000,
  HIGH = 26;

/** Where the material goes, as one bar: each kind as wide as its share. */
export function UseBar({ areas, what }: { areas: Record<string, number>; what: string }) {
  const id = useId();
  let x = 0;
  const cells = KINDS.map((kind) => {
    const w = areas.sheet ? (areas[kind] / areas.sheet) * WIDE : 0,
      at = x;
    x += w;
    return { kind, at, w, share: areas.sheet ? areas[kind] / areas.sheet : 0 };
  });
  const said = cells.map((c) => `${c.kind} ${(c.share * 100).toFixed(1)} %`).join(", ");
  return (
    <figure aria-labelledby={id} className="min-w-0">
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        preserveAspectRatio="none"
        className="h-[26px] w-full border border-ink"
        role="img"
        aria-label={`${what}: ${said}`}
      >
        <Patterns />
        {cells.map((c) => (
          <rect
            key={c.kind}
            x={c.at}
            width={c.w}
            height={HIGH}
            fill={fill(c.kind)}
            stroke="#21262a"
            strokeWidth=".6"
          />
        ))}
      </svg>
      <figcaption id={id} className="mt-1 flex flex-wrap gap-x-4 gap-y-0.5 text-small">
        {cells.map((c) => (
          <span key={c.kind} title={SAYS[c.kind]} className="inline-flex items-center gap-1.5">
            <svg width="16" height="12" aria-hidden className="border border-ink">
              <rect width="16" height="12" fill={fill(c.kind)} />
            </svg>
            {c.kind} <b className="num font-medium">{(c.share * 100).toFixed(1)} %</b>
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
