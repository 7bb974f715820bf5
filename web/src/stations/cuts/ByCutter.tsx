import { clock, type Job, type Setup, type SheetPlan } from "../../api/model";
import { useLibrary } from "../../api/queries";
import { metres, useUnit } from "../../shared/lengths";
import { type Asked, benchFor } from "./features";
import { FEATURE, speed } from "./stepWords";

type Props = { job: Job; setup: Setup; plan?: SheetPlan; onBench: (b: Asked) => void };

/** The cuts of every cutter that is used: how long, how far, how fast in truth. */
export function ByCutter({ job, setup, onBench, plan }: Props) {
  const { unit } = useUnit();
  const cuts = setup.sheets.flatMap((s) => s.cuts),
    names = new Map(job.parts.map((p) => [p.id, p.name]));
  const rows = setup.cutters_used.map((id) => {
    const mine = cuts.filter((c) => c.cutter === id),
      steps = [...new Set(mine.map((c) => c.operation))];
    return {
      id,
      cutter: setup.cutters.find((c) => c.id === id),
      mine,
      steps,
      seconds: mine.reduce((n, c) => n + c.seconds, 0),
      parts: new Set(mine.map((c) => c.piece.split("#")[0])),
    };
  });
  return (
    <>
      {rows.map(
        (r) =>
          r.cutter && (
            <section
              key={r.id}
              className="mt-3 border border-line bg-paper px-2.5 py-1.5"
              aria-label={`Cuts of ${r.cutter.name}`}
            >
              <h3 className="flex items-baseline justify-between gap-2">
                <b className="text-head font-semibold">
                  <span className="num">T{r.cutter.number}</span> {r.cutter.name}
                </b>
                <span className="num">{clock(r.seconds)}</span>
              </h3>
              <p className="label">
                <span className="num">{r.mine.length}</span> cuts on{" "}
                <span className="num">{r.parts.size}</span> part{r.parts.size === 1 ? "" : "s"}:{" "}
                {[...r.parts]
                  .slice(0, 5)
                  .map((p) => names.get(p))
                  .join(", ")}
                {r.parts.size > 5 ? " ..." : ""}
                {plan ? `; this sheet ${plan.cuts.filter((c) => c.cutter === r.id).length}` : ""}
              </p>
              {r.steps.map((op) => {
                const step = setup.operations.find((o) => o.id === op),
                  reached = setup.reached[`${op}|${r.id}`],
                  p = Object.values(setup.contours)
                    .flat()
                    .flatMap((c) => c.steps)
                    .find((s) => s.operation === op && s.cutter === r.id);
                return (
                  <p key={op} className="rule py-1">
                    {step ? FEATURE[step.on] : "Own steps"}: {p?.kind ?? step?.kind},{" "}
                    <span className="num">{metres((reached?.metres ?? 0) * 1000, unit)}</span> in{" "}
                    <span className="num">{clock(reached?.seconds ?? 0)}</span>
                    {p && (
                      <>
                        ; programmed <span className="num">{speed(p.feed, unit)}</span>, reaches{" "}
                        <span className="num">{speed(reached?.feed ?? 0, unit)}</span>
                      </>
                    )}{" "}
                    {step && (
                      <button
                        className="underline decoration-dotted"
                        onClick={() => onBench(benchFor(job, setup, step, p, () => {}))}
                      >
                        feed window
                      </button>
                    )}
                  </p>
                );
              })}
              <Worn
                setup={setup}
                cutter={r.id}
                metres={r.steps.reduce((n, op) => n + (setup.reached[`${op}|${r.id}`]?.metres ?? 0), 0)}
              />
            </section>
          ),
      )}
    </>
  );
}

/** What the cutter has cut so far, and what this setup adds once its sheets are recorded as cut. */
function Worn({ setup, cutter, metres: m }: { setup: Setup; cutter: string; metres: number }) {
  const { unit } = useUnit();
  const own = useLibrary().data?.cutter.find((c) => c.id === cutter);
  if (!own) return <p className="label">Not in the library any more.</p>;
  return (
    <p className="label pt-1" title="Booked when a sheet is recorded as cut, at Release">
      worn <span className="num">{metres(own.metres * 1000, unit)}</span>
      {own.life ? (
        <>
          {" "}
          of <span className="num">{metres(own.life * 1000, unit)}</span>
        </>
      ) : null}
      ; {setup.name} adds <span className="num">{metres(m * 1000, unit)}</span>
    </p>
  );
}
