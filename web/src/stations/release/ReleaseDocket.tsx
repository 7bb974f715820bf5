import type { Edits } from "../../api/edits";
import { clock, type Job, type ProofSheet, type Setup } from "../../api/model";
import { Download } from "../../shared/Download";
import { Snags } from "../../shared/Snags";
import { inUnit } from "../../shared/Tokens";
import { useUnit } from "../../shared/lengths";
import { Finishes } from "../log/Finishes";
import { RunsOfSetup } from "../log/Runs";
import { LookedAt } from "./LookedAt";
import { OpenFiles } from "./OpenFiles";

export function ReleaseDocket({
  job,
  setup,
  proof,
  edits,
}: {
  job: Job;
  setup: Setup;
  proof?: ProofSheet[];
  edits: Edits;
}) {
  const { unit } = useUnit();
  const stops = [...setup.snags, ...(proof ?? []).flatMap((p) => p.snags)].filter(
      (s) => s.severity === "stop",
    ),
    r = setup.release;
  const dialect = (fields: Partial<Setup["machine"]["dialect"]>) => {
    const d = { ...setup.machine.dialect, ...fields };
    const name = `RS-274, ${d.inch ? "inch" : "metric"}, ${d.tool_change ? "tool change by M6" : "one cutter a file"}`;
    edits.run({ kind: "change-setup", setup: setup.id, machine: { dialect: { ...fields, name } } });
  };
  const ready = r.files.length > 0 && stops.length === 0 && !!proof;
  return (
    <>
      <h2 className="text-figure font-semibold">
        {ready
          ? "Ready to release"
          : r.files.length
            ? stops.length
              ? "Programs withheld"
              : "Reading the programs back ..."
            : "Nothing to release yet"}
      </h2>
      <p className="label">
        RS-274, {setup.machine.dialect.inch ? "inch" : "metric"},{" "}
        {setup.machine.dialect.tool_change ? "tool change by M6" : "one cutter a file"}; revision{" "}
        {job.revision}
      </p>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <button
          className="key"
          aria-pressed={setup.machine.dialect.inch}
          onClick={() => dialect({ inch: !setup.machine.dialect.inch })}
        >
          programs in {setup.machine.dialect.inch ? "inches" : "millimetres"}
        </button>
        <button
          className="key"
          aria-pressed={setup.machine.dialect.tool_change}
          onClick={() => dialect({ tool_change: !setup.machine.dialect.tool_change })}
        >
          {setup.machine.dialect.tool_change
            ? "one file a sheet, cutters changed by M6"
            : "a file for each cutter"}
        </button>
      </div>
      {r.files.length > 0 && (
        <Download
          className={`${ready ? "key-strong" : "key"} mt-2 inline-block`}
          href={`/api/jobs/${job.id}/release.zip`}
        >
          {ready ? "Download programs and papers" : "Download the papers only"}
        </Download>
      )}
      <OpenFiles />
      <LookedAt />
      <ul className="mt-3">
        {r.files.map((f) => (
          <li key={f.name} className="rule flex items-baseline gap-2 py-1">
            <span className="num min-w-0 break-all text-small">
              {ready ? (
                <a className="underline" href={`/api/jobs/${job.id}/files/${f.name}`}>
                  {f.name}
                </a>
              ) : (
                f.name
              )}
            </span>
            <span className="num ml-auto">{clock(f.seconds)}</span>
          </li>
        ))}
      </ul>
      <h3 className="mt-3 font-semibold">Contains</h3>
      <p>{r.contains.map((c) => `${c.pieces} x ${c.part}`).join(", ") || "nothing"}</p>
      <p className="label">
        {r.cuts} cuts on {r.sheets} sheet{r.sheets === 1 ? "" : "s"}
      </p>
      <h3 className="mt-3 font-semibold">Leaves out</h3>
      {r.leaves_out.length ? (
        <ul className="list-disc pl-5">
          {r.leaves_out.map((t) => (
            <li key={t}>{inUnit(t, unit)}</li>
          ))}
        </ul>
      ) : (
        <p>nothing that the plan holds</p>
      )}
      {setup.sheets.length > 0 && <RunsOfSetup job={job} setup={setup} />}
      <Finishes job={job} setup={setup} />
      {stops.length > 0 && (
        <>
          <h3 className="mt-3 font-semibold text-stop">Clear these first</h3>
          <Snags snags={stops} edits={edits} />
        </>
      )}
      <p className="label mt-4 border-t border-line pt-2">
        Glasses, ear defenders, extraction. Check hold, zero and clearance before the spindle starts; first
        piece in air or at reduced feed. Local codes, the makers' instructions and trained people come first.
        {setup.material.caution ? ` ${setup.material.caution}` : ""}
      </p>
    </>
  );
}
