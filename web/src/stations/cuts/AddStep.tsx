import type { On, Operation, Setup, StepKind } from "../../api/model";
import { Pick } from "../../shared/Pick";
import { KINDS_ON, suits } from "./stepWords";

/** One step more on a kind of feature, with a cutter that suits it. */
export function AddStep({
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
    <label className="mt-1 inline-flex items-baseline gap-1 text-small">
      <span className="sr-only">Add a step on {on}</span>
      <Pick
        look="key"
        className="!py-0"
        label={`Add a step on ${on}`}
        placeholder={text}
        value=""
        options={KINDS_ON[on].filter(([k]) => setup.cutters.some((c) => suits(k, c)))}
        onPick={add}
      />
    </label>
  );
}
