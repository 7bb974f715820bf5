/** The kinds of feature of a setup, and how a step on one is changed. */
import type { Edits } from "../../api/edits";
import type { Job, On, Operation, Setup, StepPlan } from "../../api/model";
import type { FeedsAsk } from "../../feeds/FeedsBench";
import { isUp, partsIn } from "../../job/partsIn";
import type { Change } from "./phrases";

/** A step at the feeds bench. */
export type Asked = { ask: FeedsAsk; title: string; keep?: (rpm: number, feed: number) => void } | null;
export const ORDER: On[] = [
  "pockets",
  "grooves",
  "engravings",
  "drillings",
  "reliefs",
  "round holes",
  "holes",
  "outlines",
];
export const benchFor = (
  job: Job,
  setup: Setup,
  step: Operation,
  plan: StepPlan | undefined,
  change: Change,
): Asked => {
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
export const present = (job: Job, setup: Setup): On[] => {
  const found = new Set<On>(
    Object.values(setup.contours)
      .flat()
      .map((c) => c.on),
  );
  for (const p of partsIn(job, setup))
    for (const f of p.features)
      if (isUp(setup, f))
        found.add(
          (
            {
              pocket: "pockets",
              groove: "grooves",
              engraving: "engravings",
              drilling: "drillings",
              relief: "reliefs",
            } as Record<string, On>
          )[f.kind],
        );
  return ORDER.filter((on) => found.has(on));
};

/** How a step is changed: only the fields named, with cutters of the shop that come into the job for it. */
export const changing =
  (edits: Edits, at: { setup?: string; part?: string; contour?: string }, on: On, id: string): Change =>
  (fields, cutters) =>
    edits.run({ kind: "change-steps", ...at, on, change: [{ id, fields }], ...(cutters ? { cutters } : {}) });
