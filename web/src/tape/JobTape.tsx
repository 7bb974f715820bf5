import { useJobView } from "../job/view";
import { KerfTape } from "../kerf/KerfTape";
import { onKerfTable } from "../kerf/useKerf";
import { LoadStrip } from "./LoadStrip";
import { Tape } from "./Tape";

/** The tape of the sheet that is shown, where a station has one. */
export function JobTape() {
  const { job, setup, edits, station, plan, time, setTime, selected, select } = useJobView();
  if (onKerfTable(setup)) return station === "cuts" || station === "prove" ? <KerfTape /> : <span />;
  if ((station !== "cuts" && station !== "prove") || !plan?.cuts.length) return <span />;
  const move = (cut: string, before: string) =>
    edits.run({
      kind: "move-cut",
      setup: setup.id,
      sheet: plan.sheet,
      sheet_copy: plan.copy_no,
      cut,
      before,
    });
  return (
    <Tape
      {...{ job, setup, plan, time, setTime, selected }}
      onSelect={select}
      onMove={station === "cuts" ? move : undefined}
      below={station === "prove" ? (scale) => <LoadStrip {...scale} /> : undefined}
    />
  );
}
