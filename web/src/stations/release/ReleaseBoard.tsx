import type { Job, ProofSheet, Setup } from "../../api/model";
import { JobTable } from "../../job/JobTable";
import { useJobView } from "../../job/view";
import { useUnit } from "../../shared/lengths";
import { useMoment } from "../../tape/useMoment";
import { useCutPicture } from "../prove/asCut";
import { lineStep } from "../prove/lineStep";
import { CodeFold } from "./CodeFold";
import { PartPicker } from "./PartPicker";
import { SheetCards } from "./SheetCards";
import { type Picked, useReleases } from "./useReleases";

type Props = {
  job: Job;
  setup: Setup;
  proof?: ProofSheet[];
  picked: Picked;
  onPick: (p: Picked) => void;
};

/** The sheets with their check lists first, what goes out of them, the table to pick pieces on, and the code. */
export function ReleaseBoard({ job, setup, proof, picked, onPick }: Props) {
  const state = useReleases(job);
  if (!setup.sheets.length)
    return (
      <p className="grid h-full place-items-center text-quiet">
        Nest the pieces; the programs follow by themselves.
      </p>
    );
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,300px)_minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_auto] max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-[auto_minmax(0,1fr)_auto]">
      <div className="col-span-2 border-b border-line bg-paper px-3 py-1 max-md:col-span-1">
        <PartPicker job={job} setup={setup} picked={picked} onPick={onPick} state={state.data} />
      </div>
      <div
        className="min-h-0 overflow-y-auto border-r border-line p-2"
        tabIndex={0}
        role="region"
        aria-label="Sheets and check lists"
      >
        <SheetCards picked={picked} onPick={onPick} state={state.data} proof={proof} />
      </div>
      <div className="relative min-h-0 min-w-0 max-md:hidden">
        <TableBeside />
      </div>
      <div className="col-span-2 min-w-0 max-md:col-span-1">
        <CodeFold job={job} setup={setup} />
      </div>
    </div>
  );
}

/** The sheet that is shown: its pieces, to be picked; or as it is cut at the line of the code under the pointer. */
function TableBeside() {
  const { setup, sheet, time } = useJobView(),
    { unit } = useUnit();
  const stock = setup.stock.find((s) => s.id === sheet[0]);
  const picture = useCutPicture(lineStep(stock?.thickness ?? 18, unit)),
    moment = useMoment();
  return time === null ? <JobTable /> : <JobTable picture={picture} moment={moment} />;
}
