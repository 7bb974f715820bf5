import { Frame } from "../../job/Frame";
import { useJobView } from "../../job/view";
import { ReleaseBoard } from "./ReleaseBoard";
import { ReleaseDocket } from "./ReleaseDocket";
import { usePicked } from "./useReleases";

/** The programs and papers that go to the machine. */
export default function Release() {
  const { job, setup, proof, edits } = useJobView();
  const [picked, setPicked] = usePicked();
  return (
    <Frame
      board={<ReleaseBoard job={job} setup={setup} proof={proof} picked={picked} onPick={setPicked} />}
      docket={<ReleaseDocket job={job} setup={setup} proof={proof} edits={edits} picked={picked} />}
    />
  );
}
