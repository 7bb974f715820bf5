import { useState } from "react";

import { type Edits } from "../../api/edits";
import { clock, type Job, type Setup } from "../../api/model";
import { partsIn } from "../../job/partsIn";
import { Pick } from "../../shared/Pick";
import { money } from "../../shared/money";
import { Laid } from "./Laid";
import { QuantityCurve } from "./QuantityCurve";
import { useMachines, useWhatIfs, type What, type WhatIf as Asked } from "./useWhatIfs";

const SECONDS: [string, string][] = [
  ["5", "5 s each"],
  ["15", "15 s each"],
  ["60", "a minute each"],
];

/** What the order could be otherwise: questions that whole nests answer in the background. */
export function WhatIf({ job, setup, edits }: { job: Job; setup: Setup; edits: Edits }) {
  const { list, ask, stop, forget, over } = useWhatIfs(job, setup);
  const [seconds, setSeconds] = useState("15");
  const send = (what: What) => ask.mutate({ what, seconds: Number(seconds) });
  return (
    <div className="grid gap-4">
      <section aria-label="Ask" className="grid gap-2 border border-line bg-paper p-3">
        <div className="flex flex-wrap items-center gap-1.5">
          <button className="key" onClick={() => send({ kind: "which sheets" })}>
            Which sheets to buy?
          </button>
          <button className="key" onClick={() => send({ kind: "out of the rack" })}>
            Remnants or new?
          </button>
          <button className="key" onClick={() => send({ kind: "breaks", times: [1, 2, 5, 10] })}>
            1, 2, 5 or 10 sets?
          </button>
          <SpareKey onAsk={send} />
          <Pick label="time for each search" value={seconds} options={SECONDS} onPick={setSeconds} />
        </div>
        <OneMore job={job} setup={setup} onAsk={send} />
        {ask.error && (
          <p role="alert" className="text-stop">
            {ask.error.message}
          </p>
        )}
      </section>
      <ol className="grid gap-3" aria-label="Answers">
        {list.data?.map((w) => (
          <Answer
            key={w.id}
            w={w}
            job={job}
            setup={setup}
            edits={edits}
            over={over(w)}
            onStop={() => stop.mutate(w)}
            onForget={() => forget.mutate(w)}
          />
        ))}
      </ol>
      {list.data && !list.data.length && (
        <p className="label">
          Nothing was asked yet. Each question nests the whole order anew, beside the work at hand; nothing in
          the plan is changed by asking.
        </p>
      )}
      <Machines job={job} setup={setup} />
    </div>
  );
}

function SpareKey({ onAsk }: { onAsk: (w: What) => void }) {
  const [n, setN] = useState("10");
  const number = /^\d{1,4}$/.test(n) ? Number(n) : NaN;
  return (
    <span className="inline-flex items-center gap-1.5">
      <button
        className="key"
        disabled={!(number >= 2 && number <= 1000)}
        onClick={() => onAsk({ kind: "spoilt", one_in: number })}
      >
        What if 1 in
      </button>
      <input
        className="field w-12 text-right"
        aria-label="one piece in so many fails"
        inputMode="numeric"
        value={n}
        onChange={(e) => setN(e.target.value)}
      />
      fails?
    </span>
  );
}

function OneMore({ job, setup, onAsk }: { job: Job; setup: Setup; onAsk: (w: What) => void }) {
  const parts = partsIn(job, setup).filter((p) => p.quantity > 0);
  const [part, setPart] = useState(""),
    [last, setLast] = useState("");
  const chosen = parts.find((p) => p.id === part) ?? parts[0];
  if (!chosen) return null;
  const usual = chosen.quantity + Math.max(6, chosen.quantity);
  const to = last.trim() ? (/^\d{1,5}$/.test(last.trim()) ? Number(last) : NaN) : usual;
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span>What do</span>
      <Pick
        label="part"
        value={chosen.id}
        options={parts.map((p): [string, string] => [p.id, `${p.name} x ${p.quantity}`])}
        onPick={(p) => {
          setPart(p);
          setLast("");
        }}
      />
      <span>and up to</span>
      <input
        className="field w-16 text-right"
        aria-label="up to how many"
        inputMode="numeric"
        placeholder={String(usual)}
        value={last}
        onChange={(e) => setLast(e.target.value)}
      />
      <span>of them cost?</span>
      <button
        className="key"
        disabled={!(to >= chosen.quantity)}
        onClick={() => onAsk({ kind: "one more", part: chosen.id, last: to })}
      >
        Reckon the curve
      </button>
    </div>
  );
}

const WORDS: Record<Asked["state"], string> = {
  waiting: "waits",
  running: "searching",
  done: "found",
  stopped: "stopped, best so far",
  failed: "no answer",
};

type AnswerProps = {
  w: Asked;
  job: Job;
  setup: Setup;
  edits: Edits;
  over: boolean;
  onStop: () => void;
  onForget: () => void;
};

function Answer({ w, job, setup, edits, over, onStop, onForget }: AnswerProps) {
  const { currency } = setup.rules;
  return (
    <li className="border border-line bg-paper p-3" aria-label={w.title}>
      <div className="flex items-baseline gap-3">
        <b className="min-w-0 font-semibold first-letter:uppercase">{w.title}</b>
        <span className="label ml-auto whitespace-nowrap" role="status">
          {WORDS[w.state]}
          {w.state === "running" && ` ${Math.round(w.share * 100)} %`}
        </span>
        <button className="key !py-0" onClick={over ? onForget : onStop}>
          {over ? "Put away" : "Stop"}
        </button>
      </div>
      {!over && (
        <div
          role="progressbar"
          aria-label={w.title}
          aria-valuenow={Math.round(w.share * 100)}
          className="mt-1.5 h-1.5 border border-line bg-white"
        >
          <div className="h-full bg-accent" style={{ width: `${w.share * 100}%` }} />
        </div>
      )}
      {w.outdated && (
        <p className="mt-1 text-small text-look">
          Asked about the order as it was before; parts, stock or spacing have changed since.
        </p>
      )}
      {w.fault && (
        <p role="alert" className="mt-1 text-stop">
          {w.fault}
        </p>
      )}
      {w.outcome && (
        <>
          <p className="mt-1 text-head first-letter:uppercase">{w.outcome.says}.</p>
          {w.outcome.curve.length > 0 && <QuantityCurve curve={w.outcome.curve} currency={currency} />}
          {w.outcome.lines.length > 0 && <Ways w={w} currency={currency} />}
          {w.outcome.layout.length > 0 && <Laid job={job} setup={setup} outcome={w.outcome} edits={edits} />}
        </>
      )}
    </li>
  );
}

function Ways({ w, currency }: { w: Asked; currency: string }) {
  const { lines, bound, kinds } = w.outcome!;
  const name = new Map(kinds.map((k) => [k.id, k.name]));
  const sets = lines.some((l) => l.each != null);
  const cell = (v: number | null | undefined) => (v == null ? "-" : money(v, currency));
  return (
    <>
      <table className="mt-1 w-full text-small">
        <thead>
          <tr className="text-left text-quiet">
            <th className="font-normal" />
            <th className="font-normal">sheets</th>
            <th className="text-right font-normal">material</th>
            {sets && <th className="text-right font-normal">all together</th>}
            {sets && <th className="text-right font-normal">a set</th>}
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => (
            <tr key={l.says}>
              <th scope="row" className="rule py-1 pr-3 text-left font-medium">
                {l.says}
              </th>
              <td className="rule">
                {Object.entries(l.counts)
                  .map(([k, n]) => `${n} x ${name.get(k) ?? k}`)
                  .join(", ") || "-"}
                {l.unplaced > 0 && <span className="text-stop"> {l.unplaced} without a place</span>}
              </td>
              <td className="rule num text-right">{cell(l.material)}</td>
              {sets && <td className="rule num text-right">{cell(l.total)}</td>}
              {sets && <td className="rule num text-right font-medium">{cell(l.each)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
      {bound !== null && (
        <p className="label mt-1">
          No choice of these sheets costs less than {money(bound, currency)}, by area alone.
        </p>
      )}
      {sets && (
        <p className="label mt-1">
          Whole sheets, without what remnants bring back; set-up once, handling by the sheet, all else as
          often.
        </p>
      )}
    </>
  );
}

function Machines({ job, setup }: { job: Job; setup: Setup }) {
  const [on, setOn] = useState(false);
  const found = useMachines(job, setup, on);
  return (
    <section aria-label="On another machine" className="border border-line bg-paper p-3">
      <div className="flex items-baseline gap-3">
        <b className="font-semibold">The same order on another machine</b>
        {!on && (
          <button className="key ml-auto !py-0" onClick={() => setOn(true)}>
            Compare
          </button>
        )}
        {found.isFetching && (
          <span role="status" className="label ml-auto">
            planning it on each ...
          </span>
        )}
      </div>
      {found.error && (
        <p role="alert" className="text-stop">
          {found.error.message}
        </p>
      )}
      {found.data && (
        <table className="mt-1 w-full text-small">
          <tbody>
            {found.data.map((m) => (
              <tr key={m.machine}>
                <th scope="row" className="rule py-1 pr-3 text-left font-medium">
                  {m.name}
                  {m.now && <span className="label"> now</span>}
                </th>
                <td className="rule num text-right">{m.seconds ? clock(m.seconds) : "-"}</td>
                <td className="rule num px-3 text-right">
                  {m.total === null ? "-" : money(m.total, setup.rules.currency)}
                </td>
                <td className="rule">{m.stops.length ? m.stops.join("; ") : "nothing stops it"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
