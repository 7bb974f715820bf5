import type { Edits } from "../../api/edits";
import type { Job, Setup } from "../../api/model";
import { inUnitOf } from "../../library/dialect";
import { Choices } from "../../shared/Choices";
import { Section } from "../../shared/Section";

/** What the machine's controller reads, and what a file holds; the plan keeps its own copy of both. */
export function HowWritten({ setup, edits }: { job: Job; setup: Setup; edits: Edits }) {
  const d = setup.machine.dialect;
  const unit = (inch: boolean) =>
    edits.run({ kind: "change-setup", setup: setup.id, machine: { dialect: inUnitOf(d, inch) } });
  return (
    <Section title={`${setup.machine.name}: ${d.name}`}>
      <p className="label">a file for each</p>
      <Choices
        label="A file for each"
        value={setup.files_by}
        options={[
          ...(d.tool_change && d.stops ? [["job", "job, with a stop between sheets"] as const] : []),
          [
            "sheet",
            d.tool_change ? "sheet, cutters changed by the machine" : "cutter: it changes none itself",
          ],
          ["cutter", "cutter"],
          ["operation", "operation"],
        ]}
        onPick={(files_by) => edits.run({ kind: "set-order", setup: setup.id, files_by })}
      />
      <p className="label mt-1">programs in</p>
      <Choices
        label="Unit of the programs"
        value={d.inch}
        options={[
          [false, "millimetres"],
          [true, "inches"],
        ]}
        onPick={unit}
      />
      <p className="label mt-1">
        How the controller wants its programs is entered in the library, at the machine; what files are called
        in the house rules.
      </p>
    </Section>
  );
}
