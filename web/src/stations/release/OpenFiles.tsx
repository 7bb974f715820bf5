import { useJobView } from "../../job/view";
import { Download } from "../../shared/Download";
import { Save } from "../../shared/Save";

/** The whole job as one archive, and its sheets and cut list for other programs. */
export function OpenFiles() {
  const { job, setup } = useJobView();
  const at = (sheet: string, copy: number) =>
    `setup=${encodeURIComponent(setup.id)}&sheet=${encodeURIComponent(sheet)}&copy_no=${copy}`;
  return (
    <details className="mt-2">
      <summary className="label cursor-pointer">the job and its sheets as open files</summary>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Download className="key inline-block" href={`/api/jobs/${job.id}/archive.zip`}>
          The whole job
        </Download>
        <Save address={`/jobs/${job.id}/cut-list.csv`} words="Cut list" />
        {setup.sheets.map((s, i) =>
          (["picture", "heights"] as const).map((what) => (
            <Save
              key={`${s.sheet}/${s.copy_no}.${what}`}
              address={`/jobs/${job.id}/cut/${what}.png?${at(s.sheet, s.copy_no)}`}
              words={`Sheet ${i + 1}, ${what === "picture" ? "picture as it is cut" : "heights in 16 bits"}`}
            />
          )),
        )}
        {setup.sheets.map((s, i) =>
          (["dxf", "svg"] as const).map((ending) => (
            <Save
              key={`${s.sheet}/${s.copy_no}.${ending}`}
              address={`/jobs/${job.id}/nest.${ending}?${at(s.sheet, s.copy_no)}`}
              words={`Sheet ${i + 1} as ${ending.toUpperCase()}`}
            />
          )),
        )}
      </div>
      <p className="label mt-1">
        The whole job is brought in again on the first page, here or in another shop: plan, drawings, programs
        and papers in one zip of open files.
      </p>
    </details>
  );
}
