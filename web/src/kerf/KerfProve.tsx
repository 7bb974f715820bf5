import { type Setup, clock } from "../api/model";
import { Frame } from "../job/Frame";
import { JobTable } from "../job/JobTable";
import { useJobView } from "../job/view";
import { Section } from "../shared/Section";
import { Snags } from "../shared/Snags";
import { many } from "../shared/many";
import { money } from "../shared/money";
import { Cautions, Figures } from "./KerfCuts";
import { KerfLayer } from "./KerfLayer";
import { type Kerf, type KerfSheet, useKerfSheet } from "./useKerf";

/** A kerf table's programs, read back, swept and held against parts and sheet; what comes loose when. */
export function KerfProve() {
  const { setup, time } = useJobView();
  const { kerf, sheet, earlier } = useKerfSheet();
  return (
    <Frame
      board={<JobTable layer={(k) => sheet && <KerfLayer sheet={sheet} k={k} time={time} hops={false} />} />}
      docket={
        kerf && sheet && !earlier ? (
          <Docket setup={setup} kerf={kerf} sheet={sheet} />
        ) : kerf && !earlier ? (
          <p>There is no program to prove yet: nest the pieces first.</p>
        ) : (
          <p role="status">Writing the program and reading it back ...</p>
        )
      }
    />
  );
}

function Docket({ setup, kerf, sheet }: { setup: Setup; kerf: Kerf; sheet: KerfSheet }) {
  const { edits, setTime, select } = useJobView();
  const stops = sheet.proof.filter((s) => s.severity === "stop").length;
  return (
    <>
      <h2 className="text-figure font-semibold">{stops ? many(stops, "stop") : "Reads back as planned"}</h2>
      <p className="label">
        The program is read as a controller reads it, held cut for cut against the plan, and its kerf swept
        over the parts: none loses or keeps more than 0.02 mm, nothing is pierced off the metal, and no hop
        goes over what is loose.
      </p>
      <Figures sheet={sheet} />
      <Snags snags={sheet.proof} edits={edits} />
      <Section title="What comes loose" figure={loose(sheet)} open strong>
        <ol aria-label="What comes loose">
          {sheet.rests
            .filter((r) => r.piece || r.state === "tips")
            .map((r) => (
              <li key={`${r.name}${r.seconds}`} className="rule flex items-baseline gap-2 py-0.5">
                <button
                  className="min-w-0 truncate text-left underline decoration-dotted underline-offset-2"
                  onClick={() => {
                    setTime(r.seconds);
                    if (r.piece) select(r.piece);
                  }}
                >
                  {r.name}
                </button>
                <span className={r.state === "lies" ? "label" : "font-semibold text-look"}>{r.state}</span>
                <span className="num ml-auto">{clock(r.seconds)}</span>
              </li>
            ))}
        </ol>
      </Section>
      <Section title="Cost of the run" figure={money(sheet.cost.total ?? 0, setup.rules.currency)}>
        <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-3">
          {COSTS.filter(([key]) => sheet.cost[key]).map(([key, word]) => (
            <div key={key} className="contents">
              <dt className="label">{word}</dt>
              <dd className="num">{money(sheet.cost[key], setup.rules.currency)}</dd>
            </div>
          ))}
        </dl>
        {!!setup.machine.head?.set_up && (
          <p className="label">Setting up takes {setup.machine.head.set_up} min more, once a job.</p>
        )}
      </Section>
      <Cautions says={kerf.cautions} />
    </>
  );
}

const COSTS: [string, string][] = [
  ["machine", "machine, by the hour"],
  ["gas", "gas or power"],
  ["consumables", "nozzle sets, by starts"],
  ["abrasive", "abrasive"],
];

const loose = (sheet: KerfSheet) => {
  const bad = sheet.rests.filter((r) => r.piece && r.state !== "lies").length;
  return bad ? `${many(bad, "piece")} not lying still` : "all lie still";
};
