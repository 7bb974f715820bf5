import type { Operation, Setup, StepPlan } from "../../api/model";
import { LengthToken } from "../../shared/Tokens";
import { StepDetails } from "./StepDetails";
import type { Change } from "./phrases";

/** What is done with a step as a whole, and what is seldom changed of it. */
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
    <details className="text-small">
      <summary className="label cursor-pointer">more</summary>
      <StepDetails step={step} setup={setup} plan={plan} change={change} />
      {step.kind === "profile" && tabs && step.on !== "pockets" && (
        <p className="py-0.5 text-small">
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
