import { Frame } from "../../job/Frame";
import { JobTable } from "../../job/JobTable";
import { useJobView } from "../../job/view";
import { KerfLayer } from "../../kerf/KerfLayer";
import { onKerfTable, useKerfSheet } from "../../kerf/useKerf";
import { ReleaseBoard } from "./ReleaseBoard";
import { ReleaseDocket } from "./ReleaseDocket";
import { usePicked } from "./useReleases";

/** The programs and papers that go to the machine. */
export default function Release() {
  const { job, setup, proof, edits } = useJobView();
  const { sheet } = useKerfSheet();
  const [picked, setPicked] = usePicked();
  return (
    <Frame
      board={
        onKerfTable(setup) ? (
          <JobTable layer={(k) => sheet && <KerfLayer sheet={sheet} k={k} time={null} hops={false} />} />
        ) : (
          <ReleaseBoard job={job} setup={setup} proof={proof} picked={picked} onPick={setPicked} />
        )
      }
      docket={<ReleaseDocket job={job} setup={setup} proof={proof} edits={edits} picked={picked} />}
    />
  );
}
