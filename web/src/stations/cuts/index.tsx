import { CarveBoard } from "../../carving/CarveBoard";
import { type CarveLook, NO_LOOK } from "../../carving/carving";
import { Frame } from "../../job/Frame";
import { JobTable } from "../../job/JobTable";
import { useJobView, useKept } from "../../job/view";
import { KerfCuts } from "../../kerf/KerfCuts";
import { onKerfTable } from "../../kerf/useKerf";
import { CutsDocket, type CutsView } from "./CutsDocket";

/** How the parts are cut, carved and held, and in which order. */
export default function Cuts() {
  return onKerfTable(useJobView().setup) ? <KerfCuts /> : <CutBySteps />;
}

function CutBySteps() {
  const { job, setup, edits, selected, plan, select, time, setTime } = useJobView();
  const [view, setView] = useKept<CutsView>("cuts.view", "cut"),
    [carve, setCarve] = useKept<CarveLook>("cuts.carve", NO_LOOK);
  return (
    <Frame
      board={
        view === "carve" ? (
          <CarveBoard job={job} setup={setup} look={carve} setLook={setCarve} />
        ) : (
          <JobTable />
        )
      }
      docket={
        <CutsDocket
          {...{ job, setup, edits, selected, plan, time, setTime, view, setView, carve, setCarve }}
          onSelect={select}
        />
      }
    />
  );
}
