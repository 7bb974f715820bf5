import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, post } from "../../api/client";
import type { FinishLine, Job, Setup } from "../../api/model";
import { partsIn } from "../../job/partsIn";
import { Pick } from "../../shared/Pick";
import { bare, useUnit } from "../../shared/lengths";
import { when } from "../../shared/when";

export const FINISHES: [FinishLine["seen"]["finish"], string][] = [
  ["clean", "clean"],
  ["fuzzy", "fuzz left"],
  ["torn", "grain torn"],
  ["burnt", "burnt"],
  ["chatter", "chatter marks"],
  ["steps", "steps between passes"],
];
export const finishSaid = (f: string) => FINISHES.find(([k]) => k === f)?.[1] ?? f;

/** Finishes side by side: with what the edge was cut, and what it looked like. */
export function FinishTable({
  lines,
  onTakeBack,
}: {
  lines: FinishLine[];
  onTakeBack?: (n: number) => void;
}) {
  const { unit } = useUnit();
  const feed = (v: number) =>
    unit === "mm" ? `${(v / 1000).toFixed(2)} m/min` : `${Math.round(v / 25.4)} in/min`;
  return (
    <table className="mt-1 w-full text-small">
      <thead>
        <tr className="label text-left">
          <th className="font-normal">cut</th>
          <th className="font-normal">with</th>
          <th className="text-right font-normal">chip</th>
          <th className="pl-2 font-normal">edge</th>
        </tr>
      </thead>
      <tbody>
        {lines.map(({ number, made, author, seen }) => (
          <tr key={number} className="border-t border-line align-baseline" data-finish={seen.finish}>
            <td className="py-1 pr-1">
              {seen.part_name}, {seen.contour}
              <span className="label block" title={author}>
                {when(made)}
              </span>
            </td>
            <td className="py-1 pr-1">
              {seen.cutter_name}
              <span className="num block">
                {Math.round(seen.rpm)} rpm, {feed(seen.feed)}, {seen.passes}{" "}
                {seen.passes === 1 ? "pass" : "passes"}
              </span>
            </td>
            <td className="num py-1 pr-2 text-right">{bare(seen.chip, unit, unit === "mm" ? 3 : 4)}</td>
            <td className="py-1 pl-2">
              <b className="font-semibold">{finishSaid(seen.finish)}</b>
              {seen.note && <span className="block">{seen.note}</span>}
              {onTakeBack && (
                <button
                  className="block underline decoration-dotted"
                  aria-label={`take back note ${number}`}
                  onClick={() => onTakeBack(number)}
                >
                  take back
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What edges looked like, noted on the job beside the numbers that they were cut with. */
export function Finishes({ job, setup }: { job: Job; setup: Setup }) {
  const client = useQueryClient(),
    key = ["finishes", job.id];
  const parts = partsIn(job, setup);
  const [part, setPart] = useState(parts[0]?.id ?? ""),
    [contour, setContour] = useState("outline"),
    [note, setNote] = useState(""),
    [wrong, setWrong] = useState("");
  const found = useQuery({ queryKey: key, queryFn: () => call<FinishLine[]>(`/jobs/${job.id}/finishes`) });
  const contours = parts.find((p) => p.id === part)?.contours.map((c) => c.name) ?? [];
  const send = async (path: string, body: object) => {
    try {
      client.setQueryData(key, await post<FinishLine[]>(path, body));
      setNote("");
      setWrong("");
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  const mine = (found.data ?? []).filter((l) => l.seen.setup === setup.id);
  if (!parts.length || !setup.sheets.length) return null;
  return (
    <section aria-label="How it came out" className="mt-4 border-t border-line pt-2">
      <h3 className="font-semibold">How it came out</h3>
      <p className="label">
        What an edge looked like, kept with the cutter, speed and feed of the plan that cut it.
      </p>
      <div className="mt-1 flex flex-wrap items-baseline gap-1.5">
        <Pick
          label="part that was looked at"
          value={part}
          options={parts.map((p): [string, string] => [p.id, p.name])}
          onPick={(p) => {
            setPart(p);
            setContour("outline");
          }}
        />
        <Pick
          label="edge that was looked at"
          value={contour}
          options={contours.map((c): [string, string] => [c, c])}
          onPick={setContour}
        />
        <input
          className="field min-w-0 flex-1 !font-sans"
          aria-label="words on the finish"
          placeholder="in words"
          maxLength={500}
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
      </div>
      <div className="mt-1 flex flex-wrap gap-1.5" role="group" aria-label="Finish">
        {FINISHES.map(([finish, words]) => (
          <button
            key={finish}
            className="key !px-2 !py-0"
            onClick={() =>
              send(`/jobs/${job.id}/finishes`, {
                setup: setup.id,
                part,
                contour,
                finish,
                note,
                revision: job.revision,
              })
            }
          >
            {words}
          </button>
        ))}
      </div>
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      {mine.length > 0 && (
        <FinishTable lines={mine} onTakeBack={(n) => send(`/jobs/${job.id}/finishes/${n}/take-back`, {})} />
      )}
    </section>
  );
}
