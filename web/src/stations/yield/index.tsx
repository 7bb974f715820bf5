import { Frame } from "../../job/Frame";
import { useJobView } from "../../job/view";
import { YieldBoard } from "./YieldBoard";
import { YieldDocket } from "./YieldDocket";

/** What the job uses of its sheets, and what stays. */
export default function Yield() {
  const { job, setup } = useJobView();
  return (
    <Frame board={<YieldBoard job={job} setup={setup} />} docket={<YieldDocket job={job} setup={setup} />} />
  );
}
