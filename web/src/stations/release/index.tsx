import { Frame } from "../../job/Frame";
import { useJobView } from "../../job/view";
import { ReleaseBoard } from "./ReleaseBoard";
import { ReleaseDocket } from "./ReleaseDocket";

/** The programs and papers that go to the machine. */
export default function Release() {
  const { job, setup, proof, edits } = useJobView();
  return (
    <Frame
      board={<ReleaseBoard job={job} setup={setup} proof={proof} />}
      docket={<ReleaseDocket job={job} setup={setup} proof={proof} edits={edits} />}
    />
  );
}
