import {
  clock,
  STATIONS,
  type Job,
  type NestState,
  type ProofSheet,
  type Setup,
  type Station,
} from "../api/model";
import { bare, squareMetres, type Unit, useUnit } from "../shared/lengths";

type Told = { job: Job; setup: Setup; proof?: ProofSheet[]; nest: NestState | null; unit: Unit };
type Mark = "untouched" | "in hand" | "held up" | "clear";

const many = (n: number, what: string) => `${n} ${what}${n === 1 ? "" : "s"}`;
const partsOf = ({ job, setup }: Told) => job.parts.filter((p) => p.setup === setup.id);
const stockOf = ({ setup }: Told) => setup.stock.filter((s) => s.quantity > 0);
const measured = (t: Told) => stockOf(t).length > 0 && stockOf(t).every((s) => s.readings.length);
const stopsOf = ({ setup }: Told) => setup.snags.filter((s) => s.severity === "stop").length;
const proofStops = ({ proof }: Told) =>
  (proof ?? []).flatMap((p) => p.snags).filter((s) => s.severity === "stop").length;

/** The telling figure of each station, and what it means. */
const FIGURE: Record<Station, (t: Told) => [string, string]> = {
  parts: (t) => [
    String(partsOf(t).reduce((n, p) => n + p.quantity, 0)),
    `in ${many(partsOf(t).length, "shape")}`,
  ],
  stock: (t) => {
    const [first] = stockOf(t);
    if (!first) return ["-", "no sheet"];
    return [`${bare(first.thickness, t.unit)} ${t.unit}`, measured(t) ? "measured" : "nominal"];
  },
  nest: ({ setup, nest }) => {
    if (nest?.state === "running") return [`${Math.round(nest.elapsed ?? 0)} s`, "nesting ..."];
    const { layout, yields: y } = setup;
    if (!y.pieces) return ["-", "not nested"];
    return [`${(layout.yield * 100).toFixed(1)} %`, `${many(y.sheets.length, "sheet")}, ${layout.state}`];
  },
  cuts: ({ setup }) =>
    setup.yields.pieces
      ? [many(setup.cutters_used.length, "cutter"), `${setup.release.cuts} cuts`]
      : ["-", "after the nest"],
  prove: (t) => {
    const { yields: y, release } = t.setup;
    if (!y.pieces) return ["-", "no program yet"];
    return [clock(y.seconds), proven(t, release.leaves_out.length)];
  },
  yield: ({ setup: { yields: y }, unit }) => {
    if (!y.pieces) return ["-", "no sheet used"];
    const all = `${(y.material_cost + y.machine_cost).toFixed(0)} in all`;
    return [squareMetres(y.sheet_area, unit), y.unpriced.length ? "not priced yet" : all];
  },
  release: (t) =>
    t.setup.yields.pieces
      ? [many(t.setup.release.files.length, "file"), stopsOf(t) + proofStops(t) ? "withheld" : "ready"]
      : ["-", "nothing yet"],
};

function proven(t: Told, notCut: number): string {
  if (!t.proof) return "reading back ...";
  if (proofStops(t)) return `${proofStops(t)} stops`;
  return notCut ? `read back, ${notCut} not cut` : "read back, clear";
}

/** How a station stands, and how many stops hold it up. */
function markOf(t: Told, s: Station): [Mark, number] {
  const { setup, proof } = t,
    { pieces } = setup.yields;
  const rules = STATIONS.find((x) => x.id === s)!.rules,
    mine = setup.snags.filter((x) => rules.includes(x.rule.split(".")[0]));
  const own = mine.filter((x) => x.severity === "stop").length,
    more = s === "prove" ? proofStops(t) : s === "release" && pieces ? stopsOf(t) + proofStops(t) : 0;
  if (s === "nest" && setup.layout.state === "none") return ["untouched", 0];
  if (own + more) return ["held up", own + more];
  if (s === "parts") return [partsOf(t).length ? "clear" : "untouched", 0];
  if (s === "stock") return [!stockOf(t).length ? "untouched" : measured(t) ? "clear" : "in hand", 0];
  if (!pieces) return ["untouched", 0];
  const open = s === "prove" && (!proof || setup.release.leaves_out.length > 0);
  return [open || mine.some((x) => x.severity === "look") ? "in hand" : "clear", 0];
}

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
  const told: Told = { job, setup, proof, nest, unit };
  return (
    <nav aria-label="Route" className="flex overflow-x-auto border-b-2 border-ink bg-paper">
      {STATIONS.map((s, i) => {
        const [state, held] = markOf(told, s.id),
          here = s.id === station,
          [big, small] = FIGURE[s.id](told);
        return (
          <button
            key={s.id}
            onClick={() => go(s.id)}
            aria-current={here ? "page" : undefined}
            data-station={s.id}
            data-state={state}
            className={`relative min-w-0 flex-1 max-lg:min-w-[116px] border-r border-dashed border-line px-3 pb-2 pt-1.5 text-left last:border-r-0 ${here ? "bg-white" : "hover:bg-accent-soft/60"}`}
          >
            <span className="flex items-center gap-1.5">
              <StateMark state={state} />
              <span className={`truncate ${here ? "font-semibold" : "text-quiet"}`}>{s.title}</span>
              <kbd className="num ml-auto text-fine text-quiet">{i + 1}</kbd>
            </span>
            <span className="num block truncate text-figure leading-7">{big}</span>
            <span className="block truncate text-small text-quiet">
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
