import {
  clock,
  STATIONS,
  type Job,
  type NestState,
  type ProofSheet,
  type Setup,
  type Station,
} from "../api/model";
import { bare, squareMetres, useUnit } from "../shared/lengths";

type Mark = "untouched" | "in hand" | "held up" | "clear";

/** The job's way through the shop: navigation and state in one line. */
export function RouteBar({
  job,
  setup,
  station,
  go,
  proof,
  nest,
}: {
  job: Job;
  setup: Setup;
  station: Station;
  go: (s: Station) => void;
  proof?: ProofSheet[];
  nest: NestState | null;
}) {
  const { unit } = useUnit();
  const parts = job.parts.filter((p) => p.setup === setup.id),
    pieces = parts.reduce((n, p) => n + p.quantity, 0);
  const stock = setup.stock.filter((s) => s.quantity > 0),
    y = setup.yields,
    measured = stock.length > 0 && stock.every((s) => s.readings.length);
  const stops = setup.snags.filter((s) => s.severity === "stop").length,
    proofStops = (proof ?? []).flatMap((p) => p.snags).filter((s) => s.severity === "stop").length;
  const figure: Record<Station, [string, string]> = {
    parts: [String(pieces), `in ${parts.length} shape${parts.length === 1 ? "" : "s"}`],
    stock: stock.length
      ? [`${bare(stock[0].thickness, unit)} ${unit}`, measured ? "measured" : "nominal"]
      : ["-", "no sheet"],
    nest:
      nest?.state === "running"
        ? [`${Math.round(nest.elapsed ?? 0)} s`, "nesting ..."]
        : y.pieces
          ? [
              `${(setup.layout.yield * 100).toFixed(1)} %`,
              `${y.sheets.length} sheet${y.sheets.length === 1 ? "" : "s"}, ${setup.layout.state}`,
            ]
          : ["-", "not nested"],
    cuts: y.pieces
      ? [
          `${setup.cutters_used.length} cutter${setup.cutters_used.length === 1 ? "" : "s"}`,
          `${setup.release.cuts} cuts`,
        ]
      : ["-", "after the nest"],
    prove: y.pieces
      ? [
          clock(y.seconds),
          proof
            ? proofStops
              ? `${proofStops} stops`
              : setup.release.leaves_out.length
                ? `read back, ${setup.release.leaves_out.length} not cut`
                : "read back, clear"
            : "reading back ...",
        ]
      : ["-", "no program yet"],
    yield: y.pieces
      ? [
          squareMetres(y.sheet_area, unit),
          y.unpriced.length ? "not priced yet" : `${(y.material_cost + y.machine_cost).toFixed(0)} in all`,
        ]
      : ["-", "no sheet used"],
    release: y.pieces
      ? [
          `${setup.release.files.length} file${setup.release.files.length === 1 ? "" : "s"}`,
          stops + proofStops ? "withheld" : "ready",
        ]
      : ["-", "nothing yet"],
  };
  const mark = (s: Station): [Mark, number] => {
    const rules = STATIONS.find((x) => x.id === s)!.rules;
    const mine = setup.snags.filter((x) => rules.includes(x.rule.split(".")[0]));
    const held =
      mine.filter((x) => x.severity === "stop").length +
      (s === "prove" ? proofStops : s === "release" && y.pieces ? stops + proofStops : 0);
    if (s === "nest" && setup.layout.state === "none") return ["untouched", 0];
    if (held) return ["held up", held];
    if (s === "parts") return [parts.length ? "clear" : "untouched", 0];
    if (s === "stock") return [!stock.length ? "untouched" : measured ? "clear" : "in hand", 0];
    if (!y.pieces) return ["untouched", 0];
    return [
      mine.some((x) => x.severity === "look") ||
      (s === "prove" && (!proof || setup.release.leaves_out.length > 0))
        ? "in hand"
        : "clear",
      0,
    ];
  };
  return (
    <nav aria-label="Route" className="flex border-b-2 border-ink bg-paper">
      {STATIONS.map((s, i) => {
        const [state, held] = mark(s.id),
          here = s.id === station,
          [big, small] = figure[s.id];
        return (
          <button
            key={s.id}
            onClick={() => go(s.id)}
            aria-current={here ? "page" : undefined}
            data-station={s.id}
            data-state={state}
            className={`relative min-w-0 flex-1 border-r border-dashed border-line px-3 pb-2 pt-1.5 text-left last:border-r-0 ${here ? "bg-white" : "hover:bg-accent-soft/60"}`}
          >
            <span className="flex items-center gap-1.5">
              <StateMark state={state} />
              <span className={`truncate ${here ? "font-semibold" : "text-quiet"}`}>{s.title}</span>
              <kbd className="num ml-auto text-[12px] text-quiet">{i + 1}</kbd>
            </span>
            <span className="num block truncate text-[21px] leading-7">{big}</span>
            <span className="block truncate text-[13px] text-quiet">
              {held ? (
                <b className="font-semibold text-stop">
                  {held} stop{held === 1 ? "" : "s"}
                </b>
              ) : (
                small
              )}
            </span>
            {here && <span className="absolute inset-x-0 bottom-0 h-1.5 bg-accent" aria-hidden />}
            <span className="sr-only">{state}</span>
          </button>
        );
      })}
    </nav>
  );
}

function StateMark({ state }: { state: Mark }) {
  return (
    <svg width="13" height="13" viewBox="0 0 13 13" aria-hidden className="shrink-0">
      {state === "clear" && <circle cx="6.5" cy="6.5" r="5.6" fill="#1c4e49" />}
      {state === "untouched" && (
        <circle cx="6.5" cy="6.5" r="5" fill="none" stroke="#625d53" strokeWidth="1.4" />
      )}
      {state === "in hand" && (
        <>
          <circle cx="6.5" cy="6.5" r="5" fill="none" stroke="#1c4e49" strokeWidth="1.4" />
          <path d="M6.5 1.5a5 5 0 0 0 0 10z" fill="#1c4e49" />
        </>
      )}
      {state === "held up" && (
        <>
          <rect x=".8" y=".8" width="11.4" height="11.4" fill="#f7e3dd" stroke="#a92f22" strokeWidth="1.4" />
          <path d="M1 9L9 1M3.5 12L12 3.5" stroke="#a92f22" strokeWidth="1.6" />
        </>
      )}
    </svg>
  );
}
