import {
  clock,
  layoutWords,
  STATIONS,
  type Job,
  type Mark,
  type NestState,
  type ProofSheet,
  type Setup,
  type Station,
} from "../api/model";
import { partsIn } from "../job/partsIn";
import { onKerfTable } from "../kerf/useKerf";
import { bare, squareMetres, type Unit, useUnit } from "../shared/lengths";
import { many } from "../shared/many";
import { money } from "../shared/money";
import { StateMark } from "./StateMark";

type Told = { job: Job; setup: Setup; proof?: ProofSheet[]; nest: NestState | null; unit: Unit };

const partsOf = ({ job, setup }: Told) => partsIn(job, setup);
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
    return [
      `${(layout.yield * 100).toFixed(1)} %`,
      `${many(y.sheets.length, "sheet")}, ${layoutWords(layout)}`,
    ];
  },
  cuts: ({ setup }) =>
    setup.yields.pieces
      ? onKerfTable(setup)
        ? [many(setup.release.cuts, "pierce"), "by one kerf"]
        : [many(setup.cutters_used.length, "cutter"), `${setup.release.cuts} cuts`]
      : ["-", "after the nest"],
  prove: (t) => {
    const { yields: y, release } = t.setup;
    if (!y.pieces) return ["-", "no program yet"];
    return [clock(y.seconds), proven(t, release.leaves_out.length)];
  },
  yield: ({ setup: { yields: y, rules }, unit }) => {
    if (!y.pieces) return ["-", "no sheet used"];
    const sheets = `${money(y.material_cost, rules.currency, 0)} of sheets`;
    return [squareMetres(y.sheet_area, unit), y.unpriced.includes("material") ? "not priced yet" : sheets];
  },
  release: (t) =>
    t.setup.yields.pieces
      ? [many(t.setup.release.count, "file"), stopsOf(t) + proofStops(t) ? "withheld" : "ready"]
      : ["-", "nothing yet"],
};

function proven(t: Told, notCut: number): string {
  if (!t.proof) return "reading back ...";
  if (proofStops(t)) return `${proofStops(t)} stops`;
  return notCut ? `read back, ${notCut} not cut` : "read back, clear";
}

/** How a station stands, and how many stops hold it up; what the programs say comes on top. */
function markOf(t: Told, s: Station): [Mark, number] {
  const stand = t.setup.route.find((x) => x.station === s)!,
    more = s === "prove" || (s === "release" && t.setup.yields.pieces) ? proofStops(t) : 0;
  if (stand.stops + more && stand.mark !== "untouched") return ["held up", stand.stops + more];
  if (s === "prove" && !t.proof && stand.mark === "clear") return ["in hand", 0]; // still being read back
  return [stand.mark, 0];
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
