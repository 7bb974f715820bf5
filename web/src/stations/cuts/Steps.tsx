import type { ReactNode } from "react";

import { stepsChange } from "../../api/changes";
import type { Edits } from "../../api/edits";
import type { Job, On, Operation, Setup, StepPlan } from "../../api/model";
import { AddStep } from "./AddStep";
import { FinishOrSand } from "./FinishOrSand";
import { Sentence } from "./Sentence";
import { StepTools } from "./StepTools";
import { ChooseStep } from "./chosenSteps";
import { type Asked, benchFor, changing } from "./features";
import type { Change } from "./phrases";

/** Whose steps they are: the setup's, a part's own, or those of one of its contours. */
export type Whose = { setup: string } | { part: string; contour?: string };
type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  on: On;
  whose: Whose;
  steps: Operation[];
  /** What was planned for a step. */
  planOf: (step: Operation) => StepPlan | undefined;
  onBench: (b: Asked) => void;
  /** What is said of tabs in the last step. */
  tabs?: (step: Operation, change: Change) => ReactNode;
  /** Without the key that adds one. */
  closed?: boolean;
};

/** The steps on a kind of feature, each a sentence that is changed where it stands. */
export function Steps({ job, setup, edits, on, whose, steps, planOf, onBench, tabs, closed }: Props) {
  const write = (next: Operation[]) =>
    edits.run({ kind: "change-steps", ...whose, on, ...stepsChange(steps, next) });
  return (
    <>
      {steps.map((s, i) => {
        const plan = planOf(s),
          change = changing(edits, whose, on, s.id);
        return (
          <Sentence
            key={s.id}
            mark={"setup" in whose && <ChooseStep step={s} />}
            step={s}
            setup={setup}
            plan={plan}
            change={change}
            tabs={i === steps.length - 1 ? tabs?.(s, change) : undefined}
            onFeeds={() => onBench(benchFor(job, setup, s, plan, change))}
            tools={
              <>
                <FinishOrSand {...{ step: s, setup, whose, change }} />
                <StepTools step={s} index={i} {...{ steps, setup, plan, change, write }} />
              </>
            }
          />
        );
      })}
      {!closed && <AddStep on={on} setup={setup} steps={steps} write={write} />}
    </>
  );
}
