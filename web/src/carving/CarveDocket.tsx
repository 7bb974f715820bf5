import { stepsChange } from "../api/changes";
import { type CarvingView, clock, type Job, type Operation, type Part, type Setup } from "../api/model";
import { Pick } from "../shared/Pick";
import { Snags } from "../shared/Snags";
import { length, metres, type Unit, useUnit } from "../shared/lengths";
import { Sentence } from "../stations/cuts/Sentence";
import { StepTools } from "../stations/cuts/StepTools";
import { changing } from "../stations/cuts/features";
import { Fold } from "./Fold";
import { endMills, InlayForm } from "./InlayForm";
import { carvable, chosen, useCarving, useInlay, type Props } from "./carving";

/** The steps a part is carved with: its own, or its setup's. */
function carvedBy(job: Job, setup: Setup, part: Part) {
  const of = part.features.find((f) => f.d.endsWith("Z") && (f.kind === "engraving" || f.kind === "pocket"))!;
  const on = of.kind === "pocket" ? ("pockets" as const) : ("engravings" as const);
  const own = job.steps.find((s) => s.part === part.id && s.on === on && !s.contour),
    steps = own?.steps ?? setup.operations.filter((o) => o.on === on);
  return { on, own, steps, step: steps.find((s) => s.kind === "v-carve") };
}

/** What a carving comes to: widths, depths, length, and the time of one piece where it is nested. */
function figuresOf(setup: Setup, part: Part, plan: CarvingView["steps"][number], unit: Unit) {
  const seconds = setup.sheets
      .flatMap((s) => s.cuts)
      .filter((c) => c.kind === "v-carve" && c.piece.startsWith(`${part.id}#`)),
    one = seconds.filter((c) => c.piece === seconds[0]?.piece).reduce((n, c) => n + c.seconds, 0);
  return [
    ["widest stroke at the surface", length(plan.width, unit)],
    ["deepest", length(plan.depth, unit)],
    ["cutting", metres(plan.length, unit)],
    ["time a piece", one ? clock(one) : "not nested"],
  ];
}

export function CarveDocket({ job, setup, edits, look, setLook }: Props) {
  const { unit } = useUnit();
  const all = carvable(job, setup),
    part = chosen(job, setup, look),
    seen = useCarving(job, setup, part, look),
    inlay = useInlay(job, setup, part, look);
  if (!part) return <p>No part of this setup has closed shapes to carve.</p>;
  const { on, own, steps, step } = carvedBy(job, setup, part);
  const at: Record<string, string> = own ? { part: part.id } : { setup: setup.id };
  const write = (next: Operation[]) =>
      edits.run({ kind: "change-steps", ...at, on, ...stepsChange(steps, next) }),
    change = changing(edits, at, on, step?.id ?? "");
  const plan = seen.data?.steps.find((s) => s.operation === step?.id),
    vee = setup.cutters.filter((c) => c.kind === "v-bit").sort((a, b) => b.diameter - a.diameter)[0];
  const figures = plan ? figuresOf(setup, part, plan, unit) : [];
  return (
    <>
      <h2 className="text-figure font-semibold">How it is carved</h2>
      {all.length > 1 && (
        <label className="flex items-baseline gap-2">
          <span className="label">part</span>
          <Pick
            className="min-w-0 flex-1"
            label="Part that is carved"
            value={part.id}
            options={all.map((p): [string, string] => [p.id, p.name])}
            onPick={(id) => setLook({ ...look, part: id, inlay: null })}
          />
        </label>
      )}
      {all.length === 1 && (
        <p className="label">
          {part.name}, {seen.data?.shapes ?? ""} closed outlines.{" "}
          {own ? "Its own steps." : "As the setup says."}
        </p>
      )}
      {step ? (
        <section
          className="mt-2 border border-line bg-paper px-2.5 py-1"
          aria-label={`Carving of ${part.name}`}
        >
          <Sentence
            step={step}
            setup={setup}
            plan={plan}
            change={change}
            tools={
              <StepTools
                step={step}
                index={steps.indexOf(step)}
                steps={steps}
                setup={setup}
                plan={plan}
                change={change}
                write={write}
              />
            }
          />
          <dl className="grid grid-cols-2 gap-x-3 pb-1 text-small">
            {figures.map(([k, v]) => (
              <div key={k} className="contents">
                <dt className="label">{k}</dt>
                <dd className="num text-right">{v}</dd>
              </div>
            ))}
          </dl>
          {plan && <p className="label pb-1">{plan.why.find(([k]) => k === "order")?.[1]}.</p>}
        </section>
      ) : vee ? (
        <p className="mt-2">
          Its lines are not carved yet.{" "}
          <button
            className="key-strong"
            onClick={() => write([{ kind: "v-carve", id: `${on} carve`, on, cutter: vee.id } as Operation])}
          >
            Carve them with {vee.name}
          </button>
        </p>
      ) : (
        <p className="mt-2 text-look">
          The setup has no V bit; put one into the shop library and start its steps from there.
        </p>
      )}
      <section className="mt-3 border-t border-line pt-2" aria-label="Inlay">
        <h3 className="flex items-baseline justify-between">
          <b className="text-head font-semibold">Inlay pair</b>
          <button
            className="key !py-0"
            aria-pressed={!!look.inlay}
            onClick={() =>
              setLook({
                ...look,
                inlay: look.inlay
                  ? null
                  : {
                      depth: Math.min(4, Math.max(1, (plan?.depth ?? 4) * 0.7)),
                      gap: 0.3,
                      saw: 1.5,
                      clear: endMills(setup)[0]?.diameter ?? null,
                      y: null,
                    },
              })
            }
          >
            {look.inlay ? "Put away" : "Work one out"}
          </button>
        </h3>
        {!look.inlay && (
          <p className="label">
            Socket and plug from the same outlines and bit, with the section through both.
          </p>
        )}
        {look.inlay && (
          <InlayForm
            job={job}
            setup={setup}
            part={part}
            look={look}
            setLook={setLook}
            view={inlay.data}
            busy={inlay.isFetching}
          />
        )}
      </section>
      <Fold setup={setup} bit={step ? setup.cutters.find((c) => c.id === step.cutter) : vee} />
      <Snags
        snags={setup.snags.filter((s) => s.rule.startsWith("carve.") && s.where?.part === part.id)}
        edits={edits}
      />
    </>
  );
}
