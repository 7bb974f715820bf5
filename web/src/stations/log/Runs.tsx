import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";

import { call, post } from "../../api/client";
import { type BenchLine, clock, type Job, type Setup } from "../../api/model";
import type { components } from "../../api/schema";
import { type Kerf, useKerf } from "../../kerf/useKerf";
import { RACK } from "../../rack/rack";
import { Pick } from "../../shared/Pick";
import { moment, when } from "../../shared/when";
import { FINISHES, finishSaid } from "./Finishes";
import { Remnants, useKeptRemnants } from "./Remnants";

type Runs = components["schemas"]["RunsDocument"];
type ReleaseState = components["schemas"]["ReleaseState"];
type Edge = components["schemas"]["FinishSeen"]["finish"];
type RunLine = components["schemas"]["RunLine"];
/** A sheet of whichever machine: its number of cuts and its planned time. */
type Sheet = { sheet: string; copy_no: number; seconds: number; cuts: number };
const sheetsOf = (setup: Setup, kerf?: Kerf): Sheet[] =>
  kerf
    ? kerf.sheets.map((s) => ({ ...s, cuts: s.cuts.length }))
    : setup.sheets.map((s) => ({ ...s, cuts: s.cuts.length }));

const total = (counts: Record<string, number>) => Object.values(counts).reduce((n, k) => n + k, 0);
const pieces = (n: number) => `${n} piece${n === 1 ? "" : "s"}`;

/** Seconds of a time as typed: "43" minutes, "43:20", "1:12:00"; null where nothing is typed, NaN where it is no time. */
export function readTime(typed: string): number | null {
  if (!typed.trim()) return null;
  const fields = typed.trim().split(":");
  if (fields.length > 3 || fields.some((f) => !/^\d+([.,]\d+)?$/.test(f))) return NaN;
  const numbers = fields.map((f) => Number(f.replace(",", ".")));
  if (numbers.length === 1) return numbers[0] * 60;
  return numbers.reduce((sum, n) => sum * 60 + n, 0);
}

/** What was run of this setup, sheet by sheet. Recording a sheet books its pieces, the wear of its cutters and what went
 * into the spoilboard. */
export function RunsOfSetup({ job, setup }: { job: Job; setup: Setup }) {
  const client = useQueryClient();
  const key = ["runs", job.id];
  const sheets = sheetsOf(setup, useKerf(job, setup).data);
  const log = useQuery({ queryKey: key, queryFn: () => call<Runs>(`/jobs/${job.id}/runs`) });
  const [open, setOpen] = useState<string | null>(null);
  const [fault, setFault] = useState("");

  const send = async (path: string, body: object) => {
    try {
      client.setQueryData(key, await post<Runs>(path, body));
      client.invalidateQueries({ queryKey: ["library"] }); // wear is a sum over runs
      client.invalidateQueries({ queryKey: RACK });
      for (const kept of ["releases", "release-ahead"])
        client.invalidateQueries({ queryKey: [kept, job.id] });
      setOpen(null);
      setFault("");
    } catch (e) {
      setFault((e as Error).message);
    }
  };
  const mine = log.data?.runs.filter((line) => line.run.setup === setup.id) ?? [];
  const planned = new Set(sheets.map((s) => `${s.sheet}/${s.copy_no}`));
  const elsewhere = mine.filter((line) => !planned.has(`${line.run.sheet}/${line.run.sheet_copy}`));

  return (
    <section aria-label="What was run" className="mt-4 border-t border-line pt-2">
      <h3 className="font-semibold">What was run</h3>
      {log.data && <CameTo log={log.data} job={job} />}
      {fault && (
        <p role="alert" className="text-stop">
          {fault}
        </p>
      )}
      <ol>
        {sheets.map((sheet, i) => {
          const at = `${sheet.sheet}/${sheet.copy_no}`;
          const runs = mine.filter((line) => `${line.run.sheet}/${line.run.sheet_copy}` === at);
          const cut = runs.some(
            (line) => !line.taken_back && line.run.done === line.run.planned_cuts && !line.run.rest,
          );
          return (
            <li key={at} className="rule py-1" aria-label={`Runs of sheet ${i + 1}`}>
              <p className="flex items-baseline gap-2">
                <b className="font-semibold">Sheet {i + 1}</b>
                <span className="label num">{clock(sheet.seconds)} planned</span>
                <button
                  className="key ml-auto !py-0"
                  onClick={() => setOpen(open === at ? null : at)}
                  aria-expanded={open === at}
                >
                  {cut ? "Cut again" : "It was cut"}
                </button>
              </p>
              {open === at && (
                <RunForm
                  key={at}
                  job={job}
                  setup={setup}
                  sheet={sheet}
                  ran={runs.filter((line) => !line.taken_back && line.run.done === line.run.planned_cuts)}
                  onRecord={(said) => send(`/jobs/${job.id}/runs`, { ...said, again: cut })}
                />
              )}
              <RunLines lines={runs} onTakeBack={(n) => send(`/jobs/${job.id}/runs/${n}/take-back`, {})} />
            </li>
          );
        })}
      </ol>
      {elsewhere.length > 0 && (
        <>
          <p className="label mt-1">Sheets that the plan has no longer:</p>
          <RunLines lines={elsewhere} onTakeBack={(n) => send(`/jobs/${job.id}/runs/${n}/take-back`, {})} />
        </>
      )}
    </section>
  );
}

/** What all runs of the job came to, against what is wanted and planned. */
function CameTo({ log, job }: { log: Runs; job: Job }) {
  if (!log.runs.some((line) => !line.taken_back)) {
    return (
      <p className="label">
        Nothing yet. Record a sheet when it is off the machine: its pieces, the wear of its cutters and what
        went into the spoilboard are booked with it.
      </p>
    );
  }
  const wanted = job.parts.reduce((n, p) => n + p.quantity, 0);
  const spoilt = total(log.spoilt);
  return (
    <p>
      <span className="num">{total(log.sound)}</span> of <span className="num">{wanted}</span> pieces are made
      {spoilt > 0 && (
        <>
          , <span className="num">{spoilt}</span> spoilt
        </>
      )}
      {log.seconds > 0 && (
        <>
          ; <span className="num">{clock(log.seconds)}</span> at the machine, planned{" "}
          <span className="num">{clock(log.planned)}</span>
        </>
      )}
      .
    </p>
  );
}

function RunLines({ lines, onTakeBack }: { lines: RunLine[]; onTakeBack: (number: number) => void }) {
  return (
    <ul>
      {lines.map(({ number, made, author, taken_back, run }) => (
        <li
          key={number}
          className={`flex items-baseline gap-2 text-small ${taken_back ? "text-quiet line-through" : ""}`}
        >
          <span className="label num shrink-0" title={moment(made).toLocaleString()}>
            {when(made)}
          </span>
          <span className="min-w-0 flex-1">
            {run.done === run.planned_cuts
              ? run.rest
                ? `cut, ${run.rest} cuts still to be run`
                : "cut"
              : `stopped after cut ${run.done} of ${run.planned_cuts}`}
            , {pieces(total(run.sound))}
            {run.spoilt.length > 0 && `, ${run.spoilt.length} spoilt`}
            {run.seconds != null && `, ${clock(run.seconds)}`}
            {run.release != null && `, release ${run.release}`}
            {run.edge && `, edges ${finishSaid(run.edge)}`}
            {run.note && `: ${run.note}`}
            {author && <span className="label"> {author}</span>}
          </span>
          {!taken_back && (
            <button
              className="shrink-0 text-small underline"
              aria-label={`take back run ${number}`}
              onClick={() => onTakeBack(number)}
            >
              take back
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

interface Said {
  release: number | null;
  edge: Edge | null;
  setup: string;
  sheet: string;
  sheet_copy: number;
  revision: number;
  seconds: number | null;
  done: number | null;
  spoilt: string[];
  board: string | null;
  note: string;
  keep: number[] | null;
  place: string;
}

/** A set with or without one. */
function toggled<T>(set: Set<T>, one: T, on: boolean): Set<T> {
  const next = new Set(set);
  if (on) next.add(one);
  else next.delete(one);
  return next;
}

function RunForm({
  job,
  setup,
  sheet,
  ran,
  onRecord,
}: {
  job: Job;
  setup: Setup;
  sheet: Sheet;
  /** Runs of the sheet that were not stopped. */
  ran: RunLine[];
  onRecord: (said: Said) => void;
}) {
  const [time, setTime] = useState("");
  const [done, setDone] = useState("");
  const [spoilt, setSpoilt] = useState<Set<string>>(new Set());
  const [board, setBoard] = useState("");
  const [note, setNote] = useState("");
  const [thrown, setThrown] = useState<Set<number>>(new Set());
  const [place, setPlace] = useState("");
  const at = { setup: setup.id, sheet: sheet.sheet, copy: sheet.copy_no };
  const kept = useKeptRemnants(job, at);
  const boards =
    useQuery({ queryKey: ["benches"], queryFn: () => call<BenchLine[]>("/surfacing") }).data?.filter(
      (b) => b.kind === "spoilboard" && b.machine === setup.machine.id,
    ) ?? [];
  const releases = useOut(job, at);
  const [release, setRelease] = useState<string | null>(null),
    [edge, setEdge] = useState<Edge | "">("");
  // the oldest that was not run yet: parts are run in the order in which they went out
  const next =
    [...releases].reverse().find((r) => !ran.some((l) => l.run.release === r.release)) ?? releases[0];
  const of = release ?? String(next?.release ?? "");
  const cuts = releases.find((r) => String(r.release) === of)?.cuts ?? sheet.cuts;
  const before = ran.filter((l) => l.run.release != null).reduce((n, l) => n + l.run.done, 0);
  const onSheet = setup.pieces.filter((p) => p.sheet === sheet.sheet && p.sheet_copy === sheet.copy_no);
  const name = new Map(job.parts.map((p) => [p.id, p.name]));
  const seconds = readTime(time);
  const wrong = seconds !== null && !(seconds > 0) ? "a time is minutes, or minutes:seconds" : "";

  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (wrong) return;
    onRecord({
      setup: setup.id,
      sheet: sheet.sheet,
      sheet_copy: sheet.copy_no,
      revision: job.revision,
      release: of ? Number(of) : null,
      edge: edge || null,
      seconds,
      done: done ? Number(done) : null,
      spoilt: [...spoilt],
      board: board || null,
      keep: thrown.size ? kept.map((_, i) => i).filter((i) => !thrown.has(i)) : null,
      place,
      note,
    });
  };
  const mark = (id: string, on: boolean) => setSpoilt(toggled(spoilt, id, on));
  return (
    <form
      className="my-1 border border-line bg-paper px-2.5 py-1.5"
      aria-label="Record the run"
      onSubmit={submit}
    >
      {releases.length > 0 && (
        <Row what="what was run">
          <Pick
            label="Release that was run"
            value={of}
            options={[
              ...releases.map((r): [string, string] => [
                String(r.release),
                `release ${r.release}: ${r.says === "all" ? "all that was left" : r.says}`,
              ]),
              ["", "programs that were not kept"],
            ]}
            onPick={setRelease}
          />
        </Row>
      )}
      <Row what="it took">
        <input
          className="field num w-20"
          aria-label="Real time"
          value={time}
          onChange={(e) => setTime(e.target.value)}
          placeholder="minutes"
          aria-invalid={!!wrong}
        />
        {wrong && <span className="text-stop">{wrong}</span>}
      </Row>
      <Row what="stopped after cut">
        <input
          className="field num w-20"
          aria-label="Stopped after cut"
          type="number"
          min={1}
          max={cuts}
          value={done}
          onChange={(e) => setDone(e.target.value)}
          placeholder="all"
        />
        <span className="label"> of {cuts}</span>
      </Row>
      {boards.length > 1 && (
        <Row what="it lay on">
          <Pick
            label="Spoilboard"
            value={board}
            options={[["", "no spoilboard of mine"], ...boards.map((b): [string, string] => [b.id, b.name])]}
            onPick={setBoard}
          />
        </Row>
      )}
      {!done && before + cuts >= sheet.cuts && (
        <Remnants
          job={job}
          at={at}
          thrown={thrown}
          onThrow={(i, away) => setThrown(toggled(thrown, i, away))}
          place={place}
          onPlace={setPlace}
        />
      )}
      <details>
        <summary className="cursor-pointer">
          {spoilt.size ? `${pieces(spoilt.size)} spoilt` : "Every piece that came off is sound"}
        </summary>
        <ul className="max-h-40 overflow-auto">
          {onSheet.map((p) => (
            <li key={p.id}>
              <label className="flex gap-2">
                <input
                  type="checkbox"
                  checked={spoilt.has(p.id)}
                  onChange={(e) => mark(p.id, e.target.checked)}
                />
                {name.get(p.part)}, piece {p.copy_no + 1} is spoilt
              </label>
            </li>
          ))}
        </ul>
      </details>
      <Row what="the edges">
        <Pick
          label="What the edges looked like"
          value={edge}
          options={[["", "not looked at"], ...FINISHES]}
          onPick={setEdge}
        />
      </Row>
      <Row what="to remember">
        <input
          className="field min-w-0 flex-1 !font-sans"
          aria-label="Note on the run"
          maxLength={500}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          placeholder="in words"
        />
      </Row>
      <button className="key-strong mt-1">Record</button>
      <span className="label ml-2">
        {of ? `with the programs of release ${of}` : `with the programs of change ${job.revision}`}
      </span>
    </form>
  );
}

/** Releases that hold programs for a sheet, newest first, with how many of its cuts each makes. */
function useOut(job: Job, at: { setup: string; sheet: string; copy: number }) {
  const found = useQuery({
    queryKey: ["releases", job.id, job.revision],
    queryFn: () => call<ReleaseState>(`/jobs/${job.id}/releases`),
  });
  return (found.data?.releases ?? [])
    .filter((r) => !r.taken_back)
    .map((r) => {
      const mine = r.released.files.filter(
        (f) => f.setup === at.setup && f.sheet === at.sheet && f.copies.includes(at.copy),
      );
      return { ...r.released, cuts: mine.reduce((n, f) => n + f.cuts, 0) };
    })
    .filter((r) => r.cuts > 0);
}

function Row({ what, children }: { what: string; children: ReactNode }) {
  return (
    <p className="flex items-baseline gap-2 py-0.5">
      <span className="label w-28 shrink-0">{what}</span>
      {children}
    </p>
  );
}
