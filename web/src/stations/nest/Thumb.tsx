import { type Job, type Kept, placeOf, type Setup } from "../../api/model";

/** A kept layout drawn small, its sheets below each other. */
export function Thumb({ job, setup, kept }: { job: Job; setup: Setup; kept: Kept }) {
  const parts = new Map(job.parts.map((p) => [p.id, p]));
  const sheets = [...new Map(kept.pieces.map((p) => [`${p.sheet}/${p.sheet_copy}`, p])).values()]
    .flatMap((p) => {
      const s = setup.stock.find((k) => k.id === p.sheet);
      return s ? [{ s, copy: p.sheet_copy }] : [];
    })
    .slice(0, 4);
  const width = Math.max(1, ...sheets.map((v) => v.s.width)),
    height = sheets.reduce((h, v) => h + v.s.height + 40, 0) || 1;
  let top = 0;
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="h-[76px] w-full" aria-hidden>
      {sheets.map(({ s, copy }) => {
        const y = top + s.height;
        top += s.height + 40;
        return (
          <g key={`${s.id}/${copy}`} transform={`translate(0 ${y}) scale(1 -1)`}>
            {s.outline.length > 2 ? (
              <polygon
                points={s.outline.map((q) => q.join(",")).join(" ")}
                fill="#eedcb6"
                stroke="#21262a"
                strokeWidth={width / 160}
              />
            ) : (
              <rect
                width={s.width}
                height={s.height}
                fill="#eedcb6"
                stroke="#21262a"
                strokeWidth={width / 160}
              />
            )}
            {kept.pieces
              .filter((p) => p.sheet === s.id && p.sheet_copy === copy)
              .map((p, i) => {
                const part = parts.get(p.part);
                return part ? (
                  <path
                    key={i}
                    d={part.contours.map((c) => c.d).join("")}
                    transform={placeOf(p)}
                    fill="#fbf7ef"
                    fillRule="evenodd"
                    stroke="#1c4e49"
                    strokeWidth={width / 220}
                  />
                ) : null;
              })}
          </g>
        );
      })}
    </svg>
  );
}
