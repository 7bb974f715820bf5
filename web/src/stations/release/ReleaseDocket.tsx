import { useState } from "react";

import type { Edits } from "../../api/edits";
import { clock, type Job, type ProofSheet, type Setup } from "../../api/model";
import { Cautions } from "../../kerf/KerfCuts";
import { useKerf } from "../../kerf/useKerf";
import { Download } from "../../shared/Download";
import { Section } from "../../shared/Section";
import { Snags } from "../../shared/Snags";
import { inUnit } from "../../shared/Tokens";
import { useUnit } from "../../shared/lengths";
import { many } from "../../shared/many";
import { Finishes } from "../log/Finishes";
import { RunsOfSetup } from "../log/Runs";
import { HowWritten } from "./HowWritten";
import { IsItOurs } from "./IsItOurs";
import { OpenFiles } from "./OpenFiles";
import { PrintPapers } from "./PrintPapers";
import { WentOut } from "./WentOut";
import {
  type Ahead,
  type ReleaseEdits,
  type Picked,
  type ReleaseState,
  isWhole,
  useAhead,
  useReleaseEdits,
  useReleases,
} from "./useReleases";

type Props = { job: Job; setup: Setup; proof?: ProofSheet[]; edits: Edits; picked: Picked };

/** What goes out next, what went out, and what was run. */
export function ReleaseDocket({ job, setup, proof, edits, picked }: Props) {
  const state = useReleases(job),
    ahead = useAhead(job, picked),
    does = useReleaseEdits(job),
    kerf = useKerf(job, setup).data;
  const stops = [...setup.snags, ...(proof ?? []).flatMap((p) => p.snags)].filter(
    (s) => s.severity === "stop",
  );
  // what is said of the part itself, and what stops another setup that goes out with it
  const forbids = ahead.data?.snags ?? [],
    others = ahead.data?.held.filter((h) => h.setup !== setup.id) ?? [];
  const held = stops.length > 0 || others.length > 0 || forbids.some((s) => s.severity === "stop");
  const count = ahead.data?.files.length ?? 0;
  return (
    <>
      <h2 className="text-figure font-semibold">
        {headline(job, setup, held, proof, state.data, ahead.data)}
      </h2>
      <Next
        key={job.id}
        ready={!held && !!proof && count > 0}
        ahead={ahead.data}
        whole={isWhole(picked)}
        leavesOut={setup.release.leaves_out}
        revision={job.revision}
        busy={does.busy}
        onRelease={(note) => does.release(picked, note)}
      />
      <Said does={does} />
      {others.map((h) => (
        <p key={h.setup} className="mt-1 text-stop">
          {h.name}, which would go out with it, has {many(h.stops, "stop")}: {h.first}
        </p>
      ))}
      {forbids.length > 0 && <Snags snags={forbids} edits={edits} />}
      {stops.length > 0 && (
        <>
          <h3 className="mt-3 font-semibold text-stop">Clear these first</h3>
          <Snags snags={stops} edits={edits} />
        </>
      )}
      <WentOut job={job} state={state.data} edits={does} />
      <div className="mt-3 border-t border-line pt-1">
        <Section title="The papers, before anything goes out">
          <div className="flex flex-wrap gap-1.5">
            <PrintPapers address={`/jobs/${job.id}/papers.pdf?look=true`} words="Print all papers" />
            <Download className="key inline-block" href={`/api/jobs/${job.id}/release.zip`}>
              {held ? "Download the papers only" : "Download without keeping"}
            </Download>
          </div>
        </Section>
        <HowWritten job={job} setup={setup} edits={edits} />
        <OpenFiles />
        {!!state.data?.releases.length && <IsItOurs job={job} />}
      </div>
      {setup.yields.sheets.length > 0 && <RunsOfSetup job={job} setup={setup} />}
      <Finishes job={job} setup={setup} />
      {kerf ? <Cautions says={kerf.cautions} /> : <RouterCautions setup={setup} />}
    </>
  );
}

function RouterCautions({ setup }: { setup: Setup }) {
  return (
    <p className="label mt-4 border-t border-line pt-2">
      Glasses, ear defenders, extraction. Check hold, zero and clearance before the spindle starts; first
      piece in air or at reduced feed. Local codes, the makers' instructions and trained people come first.
      {setup.material.caution ? ` ${setup.material.caution}` : ""}
    </p>
  );
}

function headline(
  job: Job,
  setup: Setup,
  held: boolean,
  proof: ProofSheet[] | undefined,
  state: ReleaseState | undefined,
  ahead: Ahead | undefined,
): string {
  if (!setup.release.files.length) return "Nothing to release yet";
  if (held) return "Programs withheld";
  if (!proof || !ahead) return "Reading the programs back ...";
  if (ahead.files.length) return "Ready to release";
  return state?.releases.length && !state.left
    ? "All of it went out"
    : `Nothing of ${job.name} that was asked for`;
}

type Going = {
  ready: boolean;
  ahead?: Ahead;
  whole: boolean;
  /** Of the plan itself, by name: not placed, not cut on purpose. */
  leavesOut: string[];
  revision: number;
  busy: string;
  onRelease: (note: string) => Promise<boolean>;
};

/** What the next release holds and leaves over, and the key that lets it out. */
function Next({ ready, ahead, whole, leavesOut, revision, busy, onRelease }: Going) {
  const { unit } = useUnit();
  const [note, setNote] = useState("");
  if (!ahead) return null;
  const n = ahead.files.length;
  return (
    <section aria-label="What goes out next">
      {n > 0 && (
        <form
          className="mt-1 flex flex-wrap items-baseline gap-1.5"
          onSubmit={(e) => {
            e.preventDefault();
            onRelease(note).then((ok) => ok && setNote(""));
          }}
        >
          <input
            className="field min-w-0 flex-1 !font-sans"
            aria-label="Note on the release"
            placeholder="a note, if you like"
            maxLength={500}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
          <button className={ready ? "key-strong" : "key"} disabled={!ready || !!busy}>
            Release {many(n, "program")}
          </button>
        </form>
      )}
      {n > 0 && (
        <>
          <p className="label mt-1">
            of change {revision}; proven again as it is written, then kept as it is
          </p>
          <p>
            <b className="font-semibold">Contains</b>{" "}
            {ahead.contains.map((c) => `${c.pieces} x ${c.part}`).join(", ")}: {many(ahead.cuts, "cut")},{" "}
            <span className="num">{clock(ahead.seconds)}</span>
          </p>
        </>
      )}
      <p>
        <b className="font-semibold">Leaves over</b>{" "}
        {ahead.left ? `${many(ahead.left, "cut")}, for a later release` : "nothing that is planned"}
      </p>
      {leavesOut.length > 0 && (
        <>
          <b className="font-semibold">Leaves out</b>
          <ul className="list-disc pl-5">
            {leavesOut.map((t) => (
              <li key={t}>{inUnit(t, unit)}</li>
            ))}
          </ul>
        </>
      )}
      {n > 0 && (
        <Section title={many(n, "program")} figure={clock(ahead.seconds)} open={n <= 6 || !whole}>
          <ul>
            {ahead.files.map((f) => (
              <li key={f.name} className="rule flex items-baseline gap-2 py-0.5">
                <span className="num min-w-0 break-all text-small">{inUnit(f.name, unit)}</span>
                <span className="num ml-auto">{clock(f.seconds)}</span>
              </li>
            ))}
          </ul>
        </Section>
      )}
    </section>
  );
}

/** What is under way, what came of it, and what went wrong. */
function Said({ does }: { does: ReleaseEdits }) {
  return (
    <>
      {does.busy && (
        <p className="label mt-1" role="status">
          {does.busy} ...
        </p>
      )}
      {does.done && (
        <p className="mt-1 border-l-4 border-accent bg-[#fffdf8] px-2" role="status">
          {does.done}
        </p>
      )}
      {does.wrong && (
        <p className="mt-1 text-stop" role="alert">
          {does.wrong}
        </p>
      )}
    </>
  );
}
