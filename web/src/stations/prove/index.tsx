import { Frame } from "../../job/Frame";
import { JobTable } from "../../job/JobTable";
import { useJobView } from "../../job/view";
import { ProveDocket } from "./ProveDocket";

/** The programs, read back and held against plan and world. */
export default function Prove() {
  const { setup, proof, edits } = useJobView();
  return <Frame board={<JobTable />} docket={<ProveDocket setup={setup} proof={proof} edits={edits} />} />;
}
