import { useState } from "react";
import { Link } from "react-router";

import { type Edits, stepsChange, useLibrary, useCount } from "../../api/edits";
import {
  clock,
  type ContourPlan,
  type Job,
  type On,
  type Operation,
  type Setup,
  type SheetPlan,
  type StepKind,
  type StepPlan,
  type Snag,
} from "../../api/model";
import { carvable, CarveDocket, type CarveLook } from "../../carving/CarveBench";
import { FeedsBench, type FeedsAsk } from "../../feeds/FeedsBench";
import { HoldDocket, ratioAt, times, WhatHoldsThis } from "../../holding/HoldBench";
import { OrderDocket } from "../../order/OrderBench";
import { Snags } from "../../shared/Snags";
import { Choice, inUnit, LengthToken } from "../../shared/Tokens";
import { bare, length, metres, useUnit } from "../../shared/lengths";
import { FEATURE, KINDS_ON, Sentence, speed, StepDetails, suits, type Change } from "./Sentence";

const ORDER: On[] = ["pockets", "grooves", "engravings", "drillings", "round holes", "holes", "outlines"];
type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  selected: string | null;
  plan?: SheetPlan;
  onSelect: (id: string | null) => void;
  time: number | null;
  setTime: (t: number | null) => void;
};
export type CutsView = "cut" | "carve" | "held" | "order";
type Bench = { ask: FeedsAsk; title: string; keep?: (rpm: number, feed: number) => void } | null;

export function CutsDocket(
  props: Props & {
    view: CutsView;
    setView: (v: CutsView) => void;
    carve: CarveLook;
    setCarve: (c: CarveLook) => void;
  },
) {
  const { view, setView } = props;
  const tabs: [CutsView, string][] = [
    ["cut", "how cut"],
    ...(carvable(props.job, props.setup).length ? [["carve", "how carved"] as [CutsView, string]] : []),
    ["held", "how held"],
    ["order", "in which order"],
  ];
  return (
    <>
      <div
        className="-mt-1 mb-2 flex gap-3.5 border-b border-line text-[15px]"
        role="tablist"
        aria-label="What is looked at"
      >
        {tabs.map(([v, words]) => (
          <button
            key={v}
            role="tab"
            aria-selected={view === v}
            className={`-mb-px pb-0.5 ${view === v ? "border-b-[3px] border-accent font-semibold" : "text-quiet"}`}
            onClick={() => setView(v)}
          >
            {words}
          </button>
        ))}
      </div>
      {view === "carve" ? (
        <CarveDocket {...props} look={props.carve} setLook={props.setCarve} />
      ) : view === "order" ? (
        <OrderDocket {...props} />
      ) : view === "held" && !props.selected ? (
        <HoldDocket {...props} />
      ) : (
        <CutDocket {...props} held={view === "held"} onHeld={() => setView("held")} />
      )}
    </>
  );
}

function CutDocket(props: Props & { held: boolean; onHeld: () => void }) {
  const { job, setup, edits, selected, onSelect, held, onHeld } = props;
  const [bench, setBench] = useState<Bench>(null),
    [group, setGroup] = useState<"part" | "cutter">("part");
  const piece = setup.pieces.find((p) => p.id === selected),
    part = piece && job.parts.find((p) => p.id === piece.part);
  const snags = setup.snags.filter((s) =>
    ["plan", "cuts", "feeds", "carve", "holding", "order", "choice", "cutters"].includes(
      s.rule.split(".")[0],
    ),
  );
  const stops = snags.filter((s) => s.severity === "stop"),
    rest = snags.filter((s) => s.severity !== "stop");
  const find = (s: Snag) =>
    onSelect((s.where?.piece as string) ?? setup.pieces.find((p) => p.part === s.where?.part)?.id ?? null);
  if (bench)
    return (
      <FeedsBench
        ask={bench.ask}
        title={bench.title}
        onBack={() => setBench(null)}
        onKeep={
          bench.keep &&
          ((rpm, feed) => {
            bench.keep!(rpm, feed);
            setBench(null);
          })
        }
      />
    );
  if (piece && part)
    return (
      <PartCuts
        {...props}
        held={held}
        onHeld={onHeld}
        partId={part.id}
        onBench={setBench}
        snags={snags.filter((s) => s.where?.part === part.id || s.where?.piece === piece.id)}
      />
    );
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="text-[20px] font-semibold">How it is cut</h2>
        <div className="flex gap-1 text-[13.5px]" role="group" aria-label="Grouped">
          {(["part", "cutter"] as const).map((g) => (
            <button
              key={g}
              className={`${group === g ? "key-strong" : "key"} !px-2 !py-0`}
              aria-pressed={group === g}
              onClick={() => setGroup(g)}
            >
              {g === "part" ? "by feature" : "by cutter"}
            </button>
          ))}
        </div>
      </div>
      <p className="label">
        For all parts of {setup.name}. Choose a piece on the table for its own.{" "}
        <Link className="underline" to="/library">
          Shop library
        </Link>
      </p>
      {setup.news.map((n) => (
        <p
          key={n.kind + n.name}
          className="mt-1.5 flex items-baseline justify-between gap-2 border border-line bg-accent-soft px-2 py-1 text-[14px]"
        >
          <span>
            The library has a newer {n.kind === "house rules" ? "set of house rules" : `${n.kind}, ${n.name}`}
            : {n.changes.join(", ")}.
          </span>
          <button className="key !py-0" onClick={() => edits.run(n.command)}>
            Adopt
          </button>
        </p>
      ))}
      {stops.length > 0 && <Snags snags={stops} edits={edits} onFind={find} most={6} />}
      {group === "part" ? (
        <ByFeature {...props} onBench={setBench} />
      ) : (
        <ByCutter {...props} onBench={setBench} />
      )}
      {(rest.length > 0 || !stops.length) && <Snags snags={rest} edits={edits} onFind={find} />}
    </>
  );
}

const benchFor = (
  job: Job,
  setup: Setup,
  step: Operation,
  plan: StepPlan | undefined,
  change: Change,
): Bench => {
  const cutter = setup.cutters.find((c) => c.id === step.cutter);
  return {
    title: cutter?.name ?? "cutter",
    ask: {
      cutter: step.cutter,
      job: job.id,
      setup: setup.id,
      ...(plan
        ? {
            rpm: plan.rpm,
            feed: plan.feed,
            depth: Math.max(0.05, (plan.depth - plan.begins) / Math.max(1, plan.passes)),
            width: Math.max(0.05, plan.width),
          }
        : {}),
    },
    keep: (rpm, feed) => change({ rpm, feed: feed / step.feed_share }),
  };
};

/** Kinds of feature that the setup's parts have, or that an operation waits for. */
const present = (job: Job, setup: Setup): On[] => {
  const found = new Set<On>(
    Object.values(setup.contours)
      .flat()
      .map((c) => c.on),
  );
  for (const p of job.parts)
    if (p.setup === setup.id)
      for (const f of p.features)
        found.add(
          (
            {
              pocket: "pockets",
              groove: "grooves",
              engraving: "engravings",
              drilling: "drillings",
            } as Record<string, On>
          )[f.kind],
        );
  return ORDER.filter((on) => found.has(on));
};

/** How a step is changed: only the fields named, with cutters of the shop that come into the job for it. */
export const changing =
  (edits: Edits, at: Record<string, string>, on: On, id: string): Change =>
  (fields, cutters) =>
    edits.run({ kind: "change-steps", ...at, on, change: [{ id, fields }], ...(cutters ? { cutters } : {}) });

function ByFeature({ job, setup, edits, onBench }: Props & { onBench: (b: Bench) => void }) {
  const all = Object.values(setup.contours).flat(),
    here = present(job, setup),
    absent = ORDER.filter((on) => !here.includes(on));
  return (
    <>
      {here.map((on) => {
        const steps = setup.operations.filter((o) => o.on === on),
          plans = all.filter((c) => c.on === on && !c.own_steps),
          own = all.filter((c) => c.on === on && c.own_steps).length,
          left = all.filter((c) => c.on === on && c.omitted).length;
        const write = (next: Operation[]) =>
          edits.run({ kind: "change-steps", setup: setup.id, on, ...stepsChange(steps, next) });
        return (
          <section
            key={on}
            className="mt-3 border border-line bg-paper px-2.5 py-1.5"
            aria-label={`Operations on ${on}`}
          >
            <h3 className="flex items-baseline justify-between gap-2">
              <b className="text-[16.5px] font-semibold">{FEATURE[on]}</b>
              <span className="label num">
                {all.filter((c) => c.on === on).length}
                {own ? `, ${own} with steps of ${own === 1 ? "its" : "their"} own` : ""}
                {left ? `, ${left} left out` : ""}
              </span>
            </h3>
            <RecipeLine
              on={on}
              setup={setup}
              edits={edits}
              steps={steps}
              target={{ setup: setup.id }}
              current={setup.recipes.find((r) => r.on === on)?.name}
              differs={setup.differs[on]}
            />
            {steps.map((s, i) => {
              const plan = plans.flatMap((c) => c.steps).find((p) => p.operation === s.id),
                change = changing(edits, { setup: setup.id }, on, s.id);
              const tabs =
                s.kind === "profile" &&
                (on === "outlines" || on === "holes" || on === "round holes") &&
                i === steps.length - 1 ? (
                  <TabsToken setup={setup} step={s} change={change} />
                ) : undefined;
              return (
                <Sentence
                  key={s.id}
                  step={s}
                  setup={setup}
                  plan={plan}
                  change={change}
                  tabs={tabs}
                  onFeeds={() => onBench(benchFor(job, setup, s, plan, change))}
                  tools={
                    <StepTools
                      step={s}
                      index={i}
                      steps={steps}
                      setup={setup}
                      plan={plan}
                      change={change}
                      write={write}
                    />
                  }
                />
              );
            })}
            <AddStep on={on} setup={setup} steps={steps} write={write} />
          </section>
        );
      })}
      {absent.length > 0 && (
        <p className="label mt-2">
          No {absent.map((on) => FEATURE[on].toLowerCase()).join(", ")} in these drawings
          {absent.includes("round holes")
            ? "; round holes are cut as holes unless they get steps of their own"
            : ""}
          .
        </p>
      )}
      {absent.includes("round holes") && (
        <AddStep
          on="round holes"
          setup={setup}
          steps={[]}
          write={(next) => edits.run({ kind: "change-steps", setup: setup.id, on: "round holes", add: next })}
          text="Steps for round holes"
        />
      )}
    </>
  );
}

function TabsToken({ setup, step, change }: { setup: Setup; step: Operation; change: Change }) {
  const house = setup.rules.tabs[setup.material.family] ?? { count: 4, width: 6, height: 4 };
  const tabs = step.tabs ?? (step.on === "outlines" ? house : { ...house, count: 0 });
  return (
    <span>
      {tabs.count ? "" : "no tabs "}
      <TabCount value={tabs.count} onCommit={(count) => change({ tabs: { count } })} />
      {tabs.count ? " tabs" : ""}
    </span>
  );
}

export function StepTools({
  step,
  index,
  steps,
  setup,
  plan,
  change,
  write,
}: {
  step: Operation;
  index: number;
  steps: Operation[];
  setup: Setup;
  plan?: StepPlan;
  change: Change;
  write: (s: Operation[]) => void;
}) {
  const swap = (k: number) => {
    const next = [...steps];
    [next[index], next[k]] = [next[k], next[index]];
    write(next);
  };
  const tabs = step.tabs ?? (step.on === "outlines" ? setup.tabs_policy : null);
  return (
    <details className="text-[13.5px]">
      <summary className="label cursor-pointer">more</summary>
      <StepDetails step={step} setup={setup} plan={plan} change={change} />
      {step.kind === "profile" && tabs && step.on !== "pockets" && (
        <p className="py-0.5 text-[14px]">
          Tabs{" "}
          <LengthToken
            label="tab width"
            mm={tabs.width}
            house={!step.tabs}
            onCommit={(width) => change({ tabs: { width } })}
          />{" "}
          wide and{" "}
          <LengthToken
            label="tab height over the bed"
            mm={tabs.height}
            house={!step.tabs}
            onCommit={(height) => change({ tabs: { height } })}
          />{" "}
          over the bed
          {step.tabs ? (
            <>
              ;{" "}
              <button className="underline decoration-dotted" onClick={() => change({ tabs: null })}>
                by house rule
              </button>
            </>
          ) : (
            " by house rule"
          )}
          .
        </p>
      )}
      <div className="flex flex-wrap gap-1.5 pb-1">
        <button className="key !py-0" disabled={index === 0} onClick={() => swap(index - 1)}>
          earlier
        </button>
        <button className="key !py-0" disabled={index === steps.length - 1} onClick={() => swap(index + 1)}>
          later
        </button>
        <button className="key !py-0" onClick={() => write(steps.filter((s) => s.id !== step.id))}>
          Take this step out
        </button>
      </div>
    </details>
  );
}

function AddStep({
  on,
  setup,
  steps,
  write,
  text = "+ a step",
}: {
  on: On;
  setup: Setup;
  steps: Operation[];
  write: (s: Operation[]) => void;
  text?: string;
}) {
  const add = (kind: StepKind) => {
    const cutter =
      setup.cutters.find((c) => suits(kind, c) && (kind !== "drill" || c.kind === "drill")) ??
      setup.cutters.find((c) => suits(kind, c));
    if (!cutter) return;
    const id = Array.from({ length: 40 }, (_, k) => `${on} ${kind}${k ? ` ${k + 1}` : ""}`).find(
      (i) => !setup.operations.some((o) => o.id === i) && !steps.some((o) => o.id === i),
    )!;
    const fresh = { kind, id, on, cutter: cutter.id } as Operation;
    write(
      kind === "v-carve"
        ? [fresh]
        : kind === "chamfer" || kind === "face"
          ? [fresh, ...steps]
          : [...steps, fresh],
    );
  };
  return (
    <label className="mt-1 inline-flex items-baseline gap-1 text-[13.5px]">
      <span className="sr-only">Add a step on {on}</span>
      <select
        className="key !py-0 [field-sizing:content]"
        value=""
        aria-label={`Add a step on ${on}`}
        onChange={(e) => e.target.value && add(e.target.value as StepKind)}
      >
        <option value="">{text}</option>
        {KINDS_ON[on]
          .filter(([k]) => setup.cutters.some((c) => suits(k, c)))
          .map(([k, t]) => (
            <option key={k} value={k}>
              {t}
            </option>
          ))}
      </select>
    </label>
  );
}

/** Which recipe the steps came from, in what they differ, and the others that fit. */
function RecipeLine({
  on,
  setup,
  edits,
  steps,
  target,
  current,
  differs,
}: {
  on: On;
  setup: Setup;
  edits: Edits;
  steps: Operation[];
  target: Record<string, string>;
  current?: string;
  differs?: string[];
}) {
  const library = useLibrary();
  const [naming, setNaming] = useState<string | null>(null),
    [wrong, setWrong] = useState("");
  const fitting =
    library.data?.recipe.filter((r) => r.on === on && (!r.family || r.family === setup.material.family)) ??
    [];
  const apply = (id: string) => {
    const recipe = fitting.find((r) => r.id === id);
    if (!recipe) return;
    const needed = new Set(recipe.steps.flatMap((s) => [s.cutter, s.bowl ?? ""]));
    edits.run({
      kind: "set-steps",
      ...target,
      on,
      recipe,
      cutters: library.data!.cutter.filter((c) => needed.has(c.id)).map(({ silhouette: _s, ...c }) => c),
    });
  };
  const keep = async () => {
    try {
      const id = `${setup.material.family}-${
        (naming ?? "")
          .toLowerCase()
          .replace(/[^a-z0-9]+/g, "-")
          .replace(/^-|-$/g, "") || "own"
      }`;
      await fetch(`/api/library/recipe`, {
        method: "PUT",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({
          id,
          name: naming,
          on,
          family: setup.material.family,
          steps,
          why: "kept from a job",
        }),
      }).then(async (r) => {
        if (!r.ok) throw new Error((await r.json()).detail);
      });
      setNaming(null);
      setWrong("");
      library.refetch();
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <div className="text-[13.5px]">
      <p className="flex flex-wrap items-baseline gap-x-2">
        <span className="text-quiet">recipe</span>
        <select
          className="max-w-[15rem] cursor-pointer appearance-none [field-sizing:content] border-b border-dotted border-ink bg-transparent font-medium"
          aria-label={`Recipe for ${on}`}
          value=""
          onChange={(e) => apply(e.target.value)}
        >
          <option value="">{current ?? "steps by house rule"}</option>
          {fitting.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name} (version {r.version})
            </option>
          ))}
        </select>
        {steps.length > 0 && naming === null && (
          <button className="underline decoration-dotted" onClick={() => setNaming(current ?? "")}>
            keep as recipe
          </button>
        )}
      </p>
      {naming !== null && (
        <form
          className="mt-1 flex gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <input
            className="field min-w-0 flex-1 !font-sans"
            autoFocus
            required
            maxLength={100}
            aria-label="Name of the recipe"
            placeholder="name of the recipe"
            value={naming}
            onChange={(e) => setNaming(e.target.value)}
          />
          <button className="key !py-0">Keep</button>
          <button type="button" className="key !py-0" onClick={() => setNaming(null)}>
            No
          </button>
        </form>
      )}
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      {differs && differs.length > 0 && (
        <p className="text-look">Differs from the recipe: {differs.join("; ")}.</p>
      )}
    </div>
  );
}

function ByCutter({ job, setup, onBench, plan }: Props & { onBench: (b: Bench) => void }) {
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
                <b className="text-[16.5px] font-semibold">
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
                        window
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

function PartCuts({
  job,
  setup,
  edits,
  selected,
  plan,
  partId,
  onBench,
  snags,
  time,
  setTime,
  held,
  onHeld,
}: Props & {
  held: boolean;
  onHeld: () => void;
  partId: string;
  onBench: (b: Bench) => void;
  snags: Setup["snags"];
}) {
  const { unit } = useUnit();
  const piece = setup.pieces.find((p) => p.id === selected)!,
    part = job.parts.find((p) => p.id === partId)!;
  const plans = setup.contours[part.id] ?? [],
    copies = setup.pieces.filter((p) => p.part === part.id).length;
  const seconds = (contour: string) =>
    plan?.cuts
      .filter((c) => c.piece === piece.id && c.contour === contour)
      .reduce((n, c) => n + c.seconds, 0) ?? 0;
  const choose = (contour: string, fields: Record<string, unknown>, alike: ContourPlan[] = []) => {
    for (const c of alike.length ? alike.map((k) => k.contour) : [contour])
      edits.run({ kind: "set-contour", part: part.id, contour: c, ...fields });
  };
  const groups = ORDER.map((on): [On, ContourPlan[]] => [on, plans.filter((c) => c.on === on)]).filter(
    ([, c]) => c.length,
  );
  return (
    <>
      <h2 className="text-[20px] font-semibold">
        {part.name}, piece {piece.copy_no + 1} of {part.quantity}
      </h2>
      {held ? (
        <WhatHoldsThis job={job} setup={setup} plan={plan} piece={piece.id} time={time} setTime={setTime} />
      ) : (
        plan?.hold && (
          <p className="flex items-baseline justify-between gap-2 text-[14px]">
            <span>
              {ratioAt(plan, piece.id, time) === undefined ? (
                "Part of the sheet at this moment."
              ) : (
                <>
                  Held <b className="num">{times(ratioAt(plan, piece.id, time))}×</b> what its cut asks
                  {time === null ? ", at the least" : ""}.
                </>
              )}
            </span>
            <button className="underline decoration-dotted" onClick={onHeld}>
              what holds this?
            </button>
          </p>
        )
      )}
      {held && <Snags snags={snags.filter((s) => s.rule.startsWith("holding."))} edits={edits} />}
      <p className="label mt-2">
        Choices here hold for all {copies} piece{copies === 1 ? "" : "s"} of this part.
      </p>
      {groups.map(([on, contours]) => {
        const ownPart = job.steps.find((s) => s.part === part.id && s.on === on && !s.contour),
          house = setup.operations.filter((o) => o.on === on);
        return (
          <section
            key={on}
            className="mt-3 border border-line bg-paper px-2.5 py-1.5"
            aria-label={`${FEATURE[on]} of ${part.name}`}
          >
            <h3 className="flex items-baseline justify-between gap-2">
              <b className="text-[16.5px] font-semibold">{FEATURE[on]}</b>
              {ownPart ? (
                <span className="flex gap-2">
                  <button
                    className="text-[13.5px] underline"
                    onClick={() => {
                      edits.run({ kind: "set-steps", setup: setup.id, on, steps: ownPart.steps });
                      edits.run({ kind: "set-steps", part: part.id, on, steps: [] });
                    }}
                  >
                    for all parts
                  </button>
                  <button
                    className="text-[13.5px] underline"
                    onClick={() => edits.run({ kind: "set-steps", part: part.id, on, steps: [] })}
                  >
                    as the setup says
                  </button>
                </span>
              ) : (
                <button
                  className="text-[13.5px] underline decoration-dotted"
                  onClick={() => edits.run({ kind: "set-steps", part: part.id, on, steps: house })}
                >
                  steps of its own
                </button>
              )}
            </h3>
            {ownPart && (
              <>
                <RecipeLine
                  on={on}
                  setup={setup}
                  edits={edits}
                  steps={ownPart.steps}
                  target={{ part: part.id }}
                  current="own to this part"
                  differs={difference(ownPart.steps, house)}
                />
                {ownPart.steps.map((s, i) => {
                  const p = contours.flatMap((c) => c.steps).find((x) => x.operation === s.id),
                    write = (next: Operation[]) =>
                      edits.run({
                        kind: "change-steps",
                        part: part.id,
                        on,
                        ...stepsChange(ownPart.steps, next),
                      }),
                    change = changing(edits, { part: part.id }, on, s.id);
                  return (
                    <Sentence
                      key={s.id}
                      step={s}
                      setup={setup}
                      plan={p}
                      change={change}
                      onFeeds={() => onBench(benchFor(job, setup, s, p, change))}
                      tools={
                        <StepTools
                          step={s}
                          index={i}
                          steps={ownPart.steps}
                          setup={setup}
                          plan={p}
                          change={change}
                          write={write}
                        />
                      }
                    />
                  );
                })}
                <AddStep
                  on={on}
                  setup={setup}
                  steps={ownPart.steps}
                  write={(next) =>
                    edits.run({
                      kind: "change-steps",
                      part: part.id,
                      on,
                      ...stepsChange(ownPart.steps, next),
                    })
                  }
                />
              </>
            )}
            {folded(contours, job, part.id).map(({ first: c, alike }) => {
              const title =
                  c.contour === part.contours[0].name
                    ? "Outline"
                    : c.contour[0].toUpperCase() + c.contour.slice(1),
                size = part.contours.find((k) => k.name === c.contour)?.size;
              const last = c.steps[c.steps.length - 1],
                houseCutter = (ownPart?.steps ?? house).at(-1)?.cutter;
              if (c.omitted)
                return (
                  <p key={c.contour} className="rule py-1.5">
                    {title}: left out on purpose.{" "}
                    <button className="underline" onClick={() => choose(c.contour, { omit: false })}>
                      Cut it again
                    </button>
                  </p>
                );
              return (
                <div key={c.contour} className="rule py-1.5">
                  <p className="flex justify-between gap-2">
                    <span>
                      <b className="font-semibold">
                        {title}
                        {alike.length > 1 ? ` and ${alike.length - 1} like it` : ""}
                      </b>
                      {c.inside && size ? (
                        <span className="num">
                          {" "}
                          {bare(size[0], unit, 1)} x {bare(size[1], unit, 1)}
                        </span>
                      ) : (
                        ""
                      )}
                      ,{" "}
                      {c.steps.map((s, i) => (
                        <span key={s.operation}>
                          {i ? "; then " : ""}
                          {s.kind},{" "}
                          <span
                            className="num"
                            title={s.why.map(([k, w]) => `${k}: ${inUnit(w, unit)}`).join("\n")}
                          >
                            {s.passes} pass{s.passes === 1 ? "" : "es"} to {length(s.depth, unit)}
                          </span>
                          {s.left > 0.5 ? `, ${s.left.toFixed(0)} mm² left` : ""}
                        </span>
                      ))}{" "}
                      with{" "}
                      <select
                        className="max-w-[11rem] cursor-pointer appearance-none [field-sizing:content] border-b border-dotted border-ink bg-transparent font-medium"
                        aria-label={`Cutter for ${c.contour}`}
                        value={c.cutter}
                        onChange={(e) =>
                          choose(
                            c.contour,
                            e.target.value === houseCutter
                              ? { automatic: ["cutter"] }
                              : { cutter: e.target.value },
                            alike,
                          )
                        }
                      >
                        {setup.cutters
                          .filter((k) => k.id === c.cutter || suits(last?.kind ?? "profile", k))
                          .map((k) => (
                            <option key={k.id} value={k.id}>
                              {k.name}
                            </option>
                          ))}
                      </select>
                    </span>
                    <span className="num">{clock(alike.reduce((n, k) => n + seconds(k.contour), 0))}</span>
                  </p>
                  <p className="flex flex-wrap items-baseline gap-x-2 text-[14px]">
                    {["outlines", "holes", "round holes"].includes(on) && (
                      <>
                        <span className="label">tabs</span>
                        <TabCount
                          value={c.tabs.length}
                          onCommit={(n) => choose(c.contour, { tab_count: n })}
                        />
                        <span className="label">
                          {c.by_hand ? "placed by hand" : c.tabs.length ? "spread on straight runs" : "none"}
                        </span>
                        {(c.by_hand || c.tabs.length > 0 || !c.inside) && (
                          <button
                            className="text-[13px] underline decoration-dotted"
                            onClick={() => choose(c.contour, { automatic: ["tabs", "tab_count"] })}
                          >
                            automatic
                          </button>
                        )}
                      </>
                    )}
                    {c.inside && ["holes", "round holes"].includes(on) && size && Math.min(...size) > 30 && (
                      <button
                        className="text-[13px] underline decoration-dotted"
                        onClick={() =>
                          edits.run({
                            kind: "set-hold",
                            setup: setup.id,
                            part: part.id,
                            contour: c.contour,
                            way: "skin, by hand",
                          })
                        }
                      >
                        keep its middle on a skin
                      </button>
                    )}
                    {on === "grooves" && part.features.some((f) => f.name === c.contour && f.closed) && (
                      <span>
                        <span className="label">closed line </span>
                        <Choice
                          label={`closed line ${c.contour} means`}
                          value={
                            job.choices.find((k) => k.part === part.id && k.contour === c.contour)?.line ?? ""
                          }
                          options={[
                            ["", "as the others"],
                            ["on line", "run on it"],
                            ["inside", "run inside"],
                            ["outside", "run outside"],
                            ["clear", "cleared"],
                          ]}
                          onPick={(line) =>
                            choose(c.contour, line ? { line } : { automatic: ["line"] }, alike)
                          }
                        />
                      </span>
                    )}
                    <button
                      className="text-[13px] underline decoration-dotted"
                      onClick={() => choose(c.contour, { omit: true }, alike)}
                    >
                      leave out
                    </button>
                    {last &&
                      setup.operations.find((o) => o.id === last.operation) &&
                      !c.own_steps &&
                      contours.length > 1 && (
                        <button
                          className="text-[13px] underline decoration-dotted"
                          onClick={() =>
                            edits.run({
                              kind: "set-steps",
                              part: part.id,
                              on,
                              contour: c.contour,
                              steps: house,
                            })
                          }
                        >
                          steps of its own
                        </button>
                      )}
                    {job.choices.some((k) => k.part === part.id && k.contour === c.contour && k.start) && (
                      <button
                        className="text-[13px] underline"
                        onClick={() => choose(c.contour, { automatic: ["start"] })}
                      >
                        start on a flat again
                      </button>
                    )}
                    {job.steps.some((s) => s.part === part.id && s.contour === c.contour) && (
                      <button
                        className="text-[13px] underline"
                        onClick={() => choose(c.contour, { automatic: ["steps"] })}
                      >
                        as the others
                      </button>
                    )}
                  </p>
                  {job.steps
                    .filter((s) => s.part === part.id && s.contour === c.contour)
                    .map((own) =>
                      own.steps.map((s, i) => {
                        const p = c.steps.find((x) => x.operation === s.id),
                          write = (next: Operation[]) =>
                            edits.run({
                              kind: "change-steps",
                              part: part.id,
                              on,
                              contour: c.contour,
                              ...stepsChange(own.steps, next),
                            }),
                          change = changing(edits, { part: part.id, contour: c.contour }, on, s.id);
                        return (
                          <Sentence
                            key={s.id}
                            step={s}
                            setup={setup}
                            plan={p}
                            change={change}
                            onFeeds={() => onBench(benchFor(job, setup, s, p, change))}
                            tools={
                              <StepTools
                                step={s}
                                index={i}
                                steps={own.steps}
                                setup={setup}
                                plan={p}
                                change={change}
                                write={write}
                              />
                            }
                          />
                        );
                      }),
                    )}
                </div>
              );
            })}
          </section>
        );
      })}
      <HoldPart job={job} setup={setup} edits={edits} part={part.id} />
      <p className="label mt-2">
        Drag a tab or a start point along its edge on the table, double-click an edge for a tab more, Delete
        takes one away; with the keyboard, focus it and use the arrow keys.
      </p>
      <Snags snags={held ? snags.filter((s) => !s.rule.startsWith("holding.")) : snags} edits={edits} />
    </>
  );
}

/** Another way of holding for one part than the setup's. */
function HoldPart({ job, setup, edits, part }: { job: Job; setup: Setup; edits: Edits; part: string }) {
  const own = job.steps.some((s) => s.part === part && s.on === "outlines" && !s.contour);
  return (
    <p className="mt-2 flex flex-wrap items-baseline gap-x-2 text-[14px]">
      <span className="label">hold this part by</span>
      {["tabs", "skin, last pass", "skin, by hand", "nothing"].map((way) => (
        <button
          key={way}
          className="underline decoration-dotted"
          onClick={() => edits.run({ kind: "set-hold", setup: setup.id, part, way })}
        >
          {way}
        </button>
      ))}
      {own && (
        <button
          className="underline"
          onClick={() => edits.run({ kind: "set-steps", part, on: "outlines", steps: [] })}
        >
          as the setup says
        </button>
      )}
    </p>
  );
}

/** Features cut just alike are one line: twenty ticks of a scale are not twenty decisions. */
function folded(
  contours: ContourPlan[],
  job: Job,
  part: string,
): { first: ContourPlan; alike: ContourPlan[] }[] {
  const groups = new Map<string, ContourPlan[]>(),
    sizes = new Map(
      job.parts
        .find((p) => p.id === part)
        ?.contours.map((c) => [c.name, c.size.map((v) => v.toFixed(1)).join("x")]),
    );
  for (const c of contours) {
    const own = c.tabs.length || c.omitted || c.own_steps || c.by_hand || c.steps.some((s) => s.left > 0.5);
    const key = own
      ? c.contour
      : JSON.stringify([
          sizes.get(c.contour),
          c.cutter,
          c.steps.map((s) => [s.kind, s.passes, s.depth.toFixed(3)]),
        ]);
    groups.set(key, [...(groups.get(key) ?? []), c]);
  }
  return [...groups.values()].flatMap((g) =>
    g.length > 3 ? [{ first: g[0], alike: g }] : g.map((c) => ({ first: c, alike: [c] })),
  );
}

/** In what steps of a part's own differ from the setup's, in words. */
function difference(own: Operation[], house: Operation[]): string[] {
  const out: string[] = [];
  for (const s of own) {
    const h = house.find((o) => o.id === s.id) as Record<string, unknown> | undefined;
    if (!h) out.push(`${s.kind} ${s.id} added`);
    else
      for (const [k, v] of Object.entries(s))
        if (JSON.stringify(v) !== JSON.stringify(h[k]))
          out.push(`${k.replace(/_/g, " ")} ${v ?? "by house rule"} instead of ${h[k] ?? "the house rule"}`);
  }
  for (const h of house) if (!own.some((s) => s.id === h.id)) out.push(`${h.kind} ${h.id} left out`);
  return out;
}

function TabCount({ value, onCommit }: { value: number; onCommit: (n: number) => void }) {
  const [count, set] = useCount(value, onCommit);
  return (
    <span className="inline-flex items-center">
      <button
        className="key !px-2 !py-0"
        aria-label="one tab fewer"
        disabled={count === 0}
        onClick={() => set(count - 1)}
      >
        -
      </button>
      <span className="num w-7 text-center">{count}</span>
      <button
        className="key !px-2 !py-0"
        aria-label="one tab more"
        disabled={count >= 40}
        onClick={() => set(count + 1)}
      >
        +
      </button>
    </span>
  );
}
