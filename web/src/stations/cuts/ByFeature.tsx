import { asSteps } from "../../api/changes";
import type { Edits } from "../../api/edits";
import type { ContourPlan, Job, On, Operation, Setup } from "../../api/model";
import { AddStep } from "./AddStep";
import { RecipeLine } from "./RecipeLine";
import { Steps } from "./Steps";
import { TabCount } from "./TabCount";
import { type Asked, ORDER, present } from "./features";
import type { Change } from "./phrases";
import { FEATURE } from "./stepWords";

type Props = { job: Job; setup: Setup; edits: Edits; onBench: (b: Asked) => void };

/** The steps of the setup, by kind of feature. */
export function ByFeature(props: Props) {
  const { job, setup, edits } = props;
  const all = Object.values(setup.contours).flat(),
    here = present(job, setup),
    absent = ORDER.filter((on) => !here.includes(on));
  return (
    <>
      {here.map((on) => (
        <OneKind key={on} {...props} on={on} all={all.filter((c) => c.on === on)} />
      ))}
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
          write={(next) =>
            edits.run({ kind: "change-steps", setup: setup.id, on: "round holes", add: asSteps(next) })
          }
          text="Steps for round holes"
        />
      )}
    </>
  );
}

const TABBED: On[] = ["outlines", "holes", "round holes"];

function OneKind({ job, setup, edits, onBench, on, all }: Props & { on: On; all: ContourPlan[] }) {
  const steps = setup.operations.filter((o) => o.on === on),
    plans = all.filter((c) => !c.own_steps).flatMap((c) => c.steps),
    own = all.filter((c) => c.own_steps).length,
    left = all.filter((c) => c.omitted).length;
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label={`Operations on ${on}`}>
      <h3 className="flex items-baseline justify-between gap-2">
        <b className="text-head font-semibold">{FEATURE[on]}</b>
        <span className="label num">
          {all.length}
          {own ? `, ${own} with steps of ${own === 1 ? "its" : "their"} own` : ""}
          {left ? `, ${left} left out` : ""}
        </span>
      </h3>
      <RecipeLine
        {...{ on, setup, edits, steps }}
        target={{ setup: setup.id }}
        current={setup.recipes.find((r) => r.on === on)?.name}
        differs={setup.differs[on]}
      />
      <Steps
        {...{ job, setup, edits, on, steps, onBench }}
        whose={{ setup: setup.id }}
        planOf={(s) => plans.find((p) => p.operation === s.id)}
        tabs={(s, change) =>
          s.kind === "profile" && TABBED.includes(on) && <TabsToken setup={setup} step={s} change={change} />
        }
      />
    </section>
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
