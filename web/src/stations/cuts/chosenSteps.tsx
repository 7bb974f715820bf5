import { createContext, useContext } from "react";

import type { Operation } from "../../api/model";

/** Steps of the setup that are chosen, to be changed together. */
export type ChosenSteps = { chosen: string[]; toggle: (step: Operation) => void };
export const ChosenStepsContext = createContext<ChosenSteps | null>(null);

/** A step's name among all of the setup. */
export const stepKey = (step: Operation) => `${step.on}|${step.id}`;

/** A box that chooses a step, where steps can be chosen. */
export function ChooseStep({ step }: { step: Operation }) {
  const of = useContext(ChosenStepsContext);
  if (!of) return null;
  return (
    <input
      type="checkbox"
      className="mr-1.5 size-4 align-[-2px]"
      aria-label={`choose ${step.kind} on ${step.on}, ${step.id}`}
      checked={of.chosen.includes(stepKey(step))}
      onChange={() => of.toggle(step)}
    />
  );
}
