import { Frame } from "../../job/Frame";
import { JobTable } from "../../job/JobTable";
import { NestDocket } from "./NestDocket";

/** Where the pieces lie on the sheets. */
export default function Nest() {
  return <Frame board={<JobTable />} docket={<NestDocket />} />;
}
