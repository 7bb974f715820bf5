import { useState } from "react";

import { clock, type Job } from "../../api/model";
import { Save } from "../../shared/Save";
import { Section } from "../../shared/Section";
import { many } from "../../shared/many";
import { when } from "../../shared/when";
import { PrintPapers } from "./PrintPapers";
import type { ReleaseEdits, ReleaseLine, ReleaseState } from "./useReleases";

/** Releases as they went out, newest first: never changed, withdrawn at most. */
export function WentOut({ job, state, edits }: { job: Job; state?: ReleaseState; edits: ReleaseEdits }) {
  if (!state?.releases.length) return null;
  return (
    <section aria-label="What went out" className="mt-3 border-t border-line pt-2">
      <h3 className="font-semibold">What went out</h3>
      {state.gone > 0 && (
        <p className="text-small">{many(state.gone, "cut")} went out that the plan has no longer.</p>
      )}
      <ol>
        {state.releases.map((line) => (
          <Release key={line.number} job={job} line={line} edits={edits} />
        ))}
      </ol>
    </section>
  );
}

function Release({ job, line, edits }: { job: Job; line: ReleaseLine; edits: ReleaseEdits }) {
  const { released: r, taken_back: gone } = line;
  const [why, setWhy] = useState<string | null>(null);
  const programs = r.files.filter((f) => f.kind === "program");
  const at = `/jobs/${job.id}/releases/${r.release}`;
  return (
    <li className="rule py-1" aria-label={`Release ${r.release}`}>
      <p className="flex items-baseline gap-2">
        <b className={`font-semibold ${gone ? "text-quiet line-through" : ""}`}>Release {r.release}</b>
        <span className="label">
          {when(line.made)}
          {line.author && `, ${line.author}`}, change {r.revision}
        </span>
        <span className="num ml-auto text-small">{many(programs.length, "program")}</span>
      </p>
      <p className="text-small">
        {r.says === "all" ? "all that was left" : r.says}: {many(r.cuts, "cut")}
        {r.left > 0 && `, ${r.left} left over then`}
        {line.run > 0 && `; ${many(line.run, "sheet")} run`}
        {gone && "; withdrawn: not to be run"}
        {r.note && `. ${r.note}`}
      </p>
      <div className="mt-0.5 flex flex-wrap gap-1.5">
        <Save address={`${at}.zip`} words="Download" />
        <PrintPapers address={`${at}/papers.pdf?look=true`} words="Print the papers" />
        {!gone && (
          <button className="key" disabled={!!edits.busy} onClick={() => edits.deliver(r.release)}>
            To the machine
          </button>
        )}
        {!gone && !line.run && (
          <button
            className="key"
            aria-expanded={why !== null}
            onClick={() => setWhy(why === null ? "" : null)}
          >
            Withdraw
          </button>
        )}
      </div>
      {why !== null && !gone && (
        <form
          className="mt-1 flex items-baseline gap-1.5"
          onSubmit={(e) => {
            e.preventDefault();
            edits.withdraw(r.release, why).then((ok) => ok && setWhy(null));
          }}
        >
          <input
            className="field min-w-0 flex-1 !font-sans"
            aria-label="Why it is withdrawn"
            placeholder="why"
            maxLength={500}
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
          <button className="key-strong">It is not to be run</button>
        </form>
      )}
      <Section title="its files, and what was to look at">
        <ul className="text-small">
          {r.files
            .filter((f) => f.kind !== "section")
            .map((f) => (
              <li key={f.name} className="flex items-baseline gap-2">
                <a
                  className="num min-w-0 break-all underline"
                  href={`/api${at}/files/${encodeURIComponent(f.name)}`}
                >
                  {f.name}
                </a>
                {f.kind === "program" && <span className="num ml-auto shrink-0">{clock(f.seconds)}</span>}
              </li>
            ))}
        </ul>
        {r.looks.map((l, i) => (
          <p key={i} className="mt-1 text-small">
            <b>Look.</b> {l.message}:{" "}
            {l.accepted
              ? `accepted${l.who ? ` by ${l.who}` : ""}${l.why ? `, ${l.why}` : ""}`
              : "nobody said that it was looked at"}
          </p>
        ))}
        <p className="label num mt-1 break-all">digest {r.digest}</p>
      </Section>
    </li>
  );
}
