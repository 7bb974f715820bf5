import type { Edits } from "../../api/edits";
import type { ProofSheet, Setup, Snag } from "../../api/model";
import { useJobView } from "../../job/view";
import { Section } from "../../shared/Section";
import { Snags } from "../../shared/Snags";
import { inUnit } from "../../shared/Tokens";
import { useUnit } from "../../shared/lengths";
import { Figures } from "./Figures";
import { Peaks } from "./Peaks";
import { Verdict } from "./Verdict";
import { WhatIsLeft } from "./WhatIsLeft";

type Props = { setup: Setup; proof?: ProofSheet[]; edits: Edits };

/** The verdict on the sheet that is shown, with all that it rests on. */
export function ProveDocket({ setup, proof, edits }: Props) {
  const { sheet, sheets, show, select, setTime } = useJobView();
  if (!setup.sheets.length) return <p>There is no program to prove yet: nest the pieces first.</p>;
  const nth = sheets.findIndex(([s, c]) => s === sheet[0] && c === sheet[1]);
  const mine = proof?.find((p) => p.sheet === sheet[0] && p.copy_no === sheet[1]);
  const others = proof?.filter((p) => p !== mine) ?? [];
  const name = (p: ProofSheet) =>
    `Sheet ${sheets.findIndex(([s, c]) => s === p.sheet && c === p.copy_no) + 1}`;
  const find = ({ where }: Snag) => {
    if (where?.seconds !== undefined) setTime(where.seconds);
    if (where?.piece) select(where.piece);
  };
  return (
    <>
      <Verdict name={`Sheet ${nth + 1}`} />
      <NotCut setup={setup} />
      <WhatIsLeft edits={edits} />
      <Peaks setup={setup} edits={edits} onFind={find} />
      <Section title="Read back and held against the plan" figure={word(mine)} open strong>
        <p className="label">
          Every program is written, read as a controller reads it, and held move for move against the plan,
          the drawn parts and what stands on the table.
        </p>
        {mine ? (
          <>
            <Figures proof={mine} setup={setup} />
            <Snags snags={mine.snags} edits={edits} onFind={find} />
          </>
        ) : (
          <p role="status">Writing the programs and reading them back ...</p>
        )}
      </Section>
      {others.length > 0 && (
        <ul className="mt-3" aria-label="Other sheets">
          {others.map((p) => (
            <li key={`${p.sheet}/${p.copy_no}`} className="rule flex items-baseline gap-2 py-0.5">
              <span>{name(p)}</span>
              <span className="label">{word(p)}</span>
              <button
                className="key ml-auto !py-0"
                aria-label={`Show ${name(p)}`}
                onClick={() => show(p.sheet, p.copy_no)}
              >
                show
              </button>
            </li>
          ))}
        </ul>
      )}
      <p className="label mt-3">
        Move along the tape to watch the order. Then let a second person look before machine time is booked.
      </p>
    </>
  );
}

/** What reading back came to, in a word. */
const word = (p?: ProofSheet) => {
  if (!p) return "...";
  const stops = p.snags.filter((s) => s.severity === "stop").length,
    looks = p.snags.filter((s) => s.severity === "look").length;
  return stops ? `${stops} stop${stops === 1 ? "" : "s"}` : looks ? `${looks} to look at` : "clear";
};

function NotCut({ setup }: { setup: Setup }) {
  const { unit } = useUnit();
  if (!setup.release.leaves_out.length) return null;
  return (
    <section className="mt-3 border border-ink bg-[#fffdf8] px-2.5 py-1.5" aria-label="What is not cut">
      <h3 className="font-semibold">What is not cut</h3>
      <ul className="list-disc pl-5 text-small">
        {setup.release.leaves_out.map((t) => (
          <li key={t}>{inUnit(t, unit)}</li>
        ))}
      </ul>
    </section>
  );
}
