import { length, useUnit } from "../../shared/lengths";

/** The bands in which a relief is held against its model, as the picture has them: [from mm, word, colour, pattern]. */
const BANDS: [number | null, string, string, string][] = [
  [
    null,
    "cut into",
    "#e0968a",
    "repeating-linear-gradient(45deg,#961e14 0 1px,transparent 1px 5px),repeating-linear-gradient(135deg,#961e14 0 1px,transparent 1px 5px)",
  ],
  [null, "as modelled", "#d8e8de", "none"],
  [0.05, "ridges", "#ece2b0", "radial-gradient(#96803c 1px,transparent 1.2px) 0 0/6px 6px"],
  [0.2, "left", "#e2be7a", "repeating-linear-gradient(135deg,#785418 0 1px,transparent 1px 6px)"],
  [1, "not reached", "#b08c60", "repeating-linear-gradient(135deg,#462e0e 0 1px,transparent 1px 3px)"],
];

/** What the colours and patterns mean where a relief is held against its model. */
export function ModelScale() {
  const { unit } = useUnit();
  return (
    <div
      data-over
      role="note"
      aria-label="Against the model"
      className="pointer-events-none absolute bottom-16 right-2 flex items-center gap-2 bg-paper/90 px-2 py-0.5 text-fine max-md:hidden"
    >
      {BANDS.map(([from, word, colour, pattern]) => (
        <span key={word} className="flex items-center gap-1">
          <i
            aria-hidden
            className="inline-block h-3 w-6 border border-line"
            style={{ background: pattern === "none" ? colour : pattern, backgroundColor: colour }}
          />
          {word}
          {from !== null && <span className="num">over {length(from, unit)}</span>}
        </span>
      ))}
    </div>
  );
}
