import type { Edits } from "../../api/edits";
import type { Operation, Setup } from "../../api/model";
import { Pick } from "../../shared/Pick";
import { LengthToken, NumberToken, QuantityToken } from "../../shared/Tokens";
import { InHand, Of } from "./InHand";
import { stepKey } from "./chosenSteps";
import { suits } from "./stepWords";

/** Steps that are chosen, changed together in one edit. */
export function StepsInHand({
  setup,
  edits,
  chosen,
  onDone,
}: {
  setup: Setup;
  edits: Edits;
  chosen: string[];
  onDone: () => void;
}) {
  const steps = setup.operations.filter((o) => chosen.includes(stepKey(o)));
  if (!steps.length) return null;
  const change = (fields: Record<string, unknown>) =>
    edits.run({ kind: "change-chosen-steps", setup: setup.id, steps: named(steps), fields });
  const cutters = setup.cutters.filter((c) => steps.every((s) => suits(s.kind, c)));
  return (
    <InHand count={steps.length} word="step" onDone={onDone}>
      <p className="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <Of what="cutter">
          <Pick
            look="token"
            label="cutter of all"
            value={alike(steps, (s) => s.cutter) ?? ""}
            placeholder={cutters.length ? "several" : "none suits all"}
            options={cutters.map((c): [string, string] => [c.id, c.name])}
            onPick={(cutter) => change({ cutter })}
          />
        </Of>
        <Of what="at most a pass">
          <LengthToken
            label="step-down of all"
            mm={alike(steps, (s) => s.step_down) ?? 0}
            unsaid={unsaid(alike(steps, (s) => s.step_down))}
            house={alike(steps, (s) => s.step_down) === null}
            onCommit={(step_down) => change({ step_down })}
            onHouse={() => change({ step_down: null })}
          />
        </Of>
        <Of what="feed">
          <QuantityToken
            of="feed"
            label="feed of all"
            value={alike(steps, (s) => s.feed) ?? 0}
            unsaid={unsaid(alike(steps, (s) => s.feed))}
            house={alike(steps, (s) => s.feed) === null}
            onCommit={(feed) => change({ feed })}
            onHouse={() => change({ feed: null })}
          />
        </Of>
        <Of what="spindle">
          <NumberToken
            label="spindle speed of all"
            unit=" rpm"
            value={alike(steps, (s) => s.rpm) ?? 0}
            unsaid={unsaid(alike(steps, (s) => s.rpm))}
            house={alike(steps, (s) => s.rpm) === null}
            onCommit={(rpm) => change({ rpm })}
            onHouse={() => change({ rpm: null })}
          />
        </Of>
      </p>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <button
          className="key !py-0"
          onClick={() => change({ feed: null, plunge: null, rpm: null, step_down: null })}
        >
          As cutter and house rules say
        </button>
        <button
          className="key !py-0"
          onClick={() => {
            edits.run({ kind: "change-chosen-steps", setup: setup.id, steps: named(steps), drop: true });
            onDone();
          }}
        >
          Take them out
        </button>
      </div>
    </InHand>
  );
}

const named = (steps: Operation[]) => steps.map((s) => ({ on: s.on, step: s.id }));

/** Words for a number that is left to the rules, or that is not the same in all. */
const unsaid = (v: number | null | undefined) =>
  v === null ? "by rule" : v === undefined ? "several" : undefined;

/** What all have alike; undefined where they differ. */
function alike<T>(steps: Operation[], of: (s: Operation) => T): T | undefined {
  const first = of(steps[0]);
  return steps.every((s) => of(s) === first) ? first : undefined;
}
