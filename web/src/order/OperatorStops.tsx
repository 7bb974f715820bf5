import { useState } from "react";

import type { Edits } from "../api/edits";
import type { Job, Setup, SheetPlan } from "../api/model";
import { NumberToken } from "../shared/Tokens";
import { callerOf } from "./OrderBench";

type Props = { job: Job; setup: Setup; edits: Edits; plan?: SheetPlan; time: number | null };
const USUAL = ["put the screws in", "turn the clamp", "clear the drops", "put in the dowels"];

/** Where the program stops for something to be done by hand. */
export function OperatorStops({ job, setup, edits, plan, time }: Props) {
  const [words, setWords] = useState("");
  const called = callerOf(job);
  const here = time === null || !plan ? null : (plan.cuts.find((c) => c.begins + c.seconds > time) ?? null),
    mine = setup.stops.filter((s) => s.sheet === plan?.sheet && s.sheet_copy === plan?.copy_no);
  const put = (text: string) => {
    if (!here || !plan || !text.trim()) return;
    edits.run({
      kind: "change-stops",
      setup: setup.id,
      add: [
        {
          id: `stop-${Date.now().toString(36)}`,
          sheet: plan.sheet,
          sheet_copy: plan.copy_no,
          before: here.name,
          words: text.trim(),
        },
      ],
    });
    setWords("");
  };
  const taken = mine.some((s) => s.before === here?.name);
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label="Stops for the operator">
      <h3>
        <b className="text-head font-semibold">Stops for the operator</b>
      </h3>
      {mine.map((s) => (
        <p key={s.id} className="rule flex justify-between gap-2 py-0.5 text-small">
          <span>
            <b className="font-semibold">{s.words}</b> before {s.before.split("/")[1]} of{" "}
            {called(s.before.split("/")[0])}
          </span>
          <button
            className="underline decoration-dotted"
            onClick={() => edits.run({ kind: "change-stops", setup: setup.id, drop: [s.id] })}
          >
            remove
          </button>
        </p>
      ))}
      {here && !taken ? (
        <>
          <p className="label mt-1">
            Stop before <b className="font-semibold">{here.contour}</b> of {called(here.piece)} to:
          </p>
          <div className="mt-1 flex flex-wrap gap-1.5">
            {USUAL.map((u) => (
              <button key={u} className="key !px-2 !py-0" disabled={edits.busy} onClick={() => put(u)}>
                {u}
              </button>
            ))}
          </div>
          <input
            className="field mt-1 w-full !font-sans"
            aria-label="what is done at the stop"
            placeholder="something else"
            maxLength={100}
            value={words}
            onChange={(e) => setWords(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && put(words)}
          />
        </>
      ) : (
        !mine.length && (
          <p className="label">Scrub the tape to a cut: the program can stop before it, spindle off.</p>
        )
      )}
    </section>
  );
}

/** The first sheet at a share of the feeds, by the controller's override. */
export function SlowFirst({ setup, set }: { setup: Setup; set: (f: { first_run: number }) => void }) {
  return (
    <p className="mt-3 text-small">
      First run at{" "}
      <NumberToken
        label="first run, per cent of the feeds"
        value={setup.first_run}
        unit="%"
        least={10}
        onCommit={(v) => set({ first_run: Math.min(100, Math.max(10, v)) })}
      />{" "}
      of the feeds{setup.first_run < 100 ? ": said on the paper and in the programs" : ""}.
    </p>
  );
}
