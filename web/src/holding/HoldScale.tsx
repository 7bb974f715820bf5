import { gradeFill, GRADES, HoldPatterns } from "./grades";

/** What the shades of hold mean. */
export function HoldScale({ least }: { least: boolean }) {
  return (
    <div
      data-over
      className="pointer-events-none absolute bottom-8 right-2 flex items-center gap-3 bg-paper/85 px-2 py-0.5 text-fine"
      role="group"
      aria-label="Scale of hold"
    >
      <b className="font-semibold">{least ? "least hold" : "hold"}</b>
      {GRADES.map(([g, words], i) => (
        <span key={g} className="flex items-center gap-1">
          <svg width="17" height="13" aria-hidden>
            {i === 0 && (
              <defs>
                <HoldPatterns name="scale" />
              </defs>
            )}
            <rect
              x=".5"
              y=".5"
              width="16"
              height="12"
              fill={gradeFill(g, "scale")}
              stroke="#21262a"
              strokeWidth=".8"
            />
          </svg>
          {words}
        </span>
      ))}
    </div>
  );
}
