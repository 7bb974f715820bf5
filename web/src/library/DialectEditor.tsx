import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call, post } from "../api/client";
import type { Machine } from "../api/model";
import { Over } from "../shared/Over";
import { Pick } from "../shared/Pick";
import { many } from "../shared/many";
import { AroundTheCuts, HowLinesAreWritten } from "./DialectFields";
import { type Dialect, type JobTried, said, useTried } from "./dialect";

type Props = { m: Machine; save: (d: Dialect) => Promise<boolean>; close: () => void };

/** What a machine's controller reads, changed with a small program beside it that is read back at every key. */
export function DialectEditor({ m, save, close }: Props) {
  const [d, setDraft] = useState<Dialect>(m.dialect as Dialect),
    [wrong, setWrong] = useState("");
  const set = (f: Partial<Dialect>) => setDraft((now) => ({ ...now, ...f }));
  const starters = useQuery({
    queryKey: ["dialects"],
    queryFn: () => call<Dialect[]>("/dialects"),
    staleTime: Infinity,
  });
  const tried = useTried(d);
  const good = tried.fresh && !!tried.data?.same && !tried.error;
  const keep = async () => {
    if (await save(said(d))) close();
    else setWrong("it was not kept; see the words over the library");
  };
  return (
    <Over title={`What ${m.name} reads`} size="wide" close={close}>
      <div className="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <input
          className="field min-w-56 flex-1 !font-sans"
          aria-label="name of the dialect"
          maxLength={120}
          value={d.name}
          onChange={(e) => set({ name: e.target.value })}
        />
        <span>
          begin with{" "}
          <Pick
            label="dialect to begin with"
            value=""
            placeholder="one of those there are"
            options={(starters.data ?? [])
              .filter((s) => (s.process === "head") === !!m.head)
              .map((s): [string, string] => [s.name, s.name])}
            onPick={(name) => setDraft(starters.data!.find((s) => s.name === name)!)}
          />
        </span>
        <button className="key-strong" disabled={!good} onClick={keep}>
          Keep it for {m.name}
        </button>
      </div>
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-2 grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-4 max-md:grid-cols-1">
        <div className="max-h-[30rem] overflow-y-auto pr-2" tabIndex={0} role="region" aria-label="Its words">
          <HowLinesAreWritten d={d} set={set} />
          <AroundTheCuts d={d} set={set} />
        </div>
        <Preview machine={m.id} d={d} tried={tried} />
      </div>
    </Over>
  );
}

/** The small program, whether it reads back, what cannot be said; and the machine's own jobs, proven on a key. */
function Preview({ machine, d, tried }: { machine: string; d: Dialect; tried: ReturnType<typeof useTried> }) {
  const [jobs, setJobs] = useState<{ of: Dialect; found: JobTried[] } | null>(null),
    [busy, setBusy] = useState(false),
    [wrong, setWrong] = useState("");
  const prove = async () => {
    setBusy(true);
    setWrong("");
    try {
      const found = await post<JobTried[]>(`/machines/${encodeURIComponent(machine)}/dialect/tried`, said(d));
      setJobs({ of: d, found });
    } catch (e) {
      setWrong((e as Error).message);
    }
    setBusy(false);
  };
  const fault = tried.error ? (tried.error as Error).message : "";
  return (
    <div className="min-w-0" aria-live="polite">
      {fault ? (
        <p role="alert" className="border-l-4 border-stop bg-stop-soft px-2 py-1">
          {fault}
        </p>
      ) : (
        tried.data && (
          <p
            className={`border-l-4 px-2 py-1 ${tried.data.same ? "border-accent bg-[#fffdf8]" : "border-stop bg-stop-soft"}`}
            data-testid="reads-back"
          >
            {tried.data.same ? "✓ " : ""}
            {tried.data.says}
          </p>
        )
      )}
      <pre
        className="num mt-1 h-72 overflow-auto border border-line bg-[#fffdf8] p-2 text-small leading-snug"
        tabIndex={0}
        role="region"
        aria-label="A small program"
      >
        {tried.data?.text}
      </pre>
      <ul className="mt-1 text-small">
        {tried.data?.limits.map((l) => (
          <li key={l}>{l}</li>
        ))}
      </ul>
      <p className="mt-1.5 flex items-baseline gap-2">
        <button className="key" disabled={busy || !!fault} onClick={prove}>
          Prove the newest jobs in it
        </button>
        {busy && (
          <span role="status" className="label">
            writing and reading back ...
          </span>
        )}
      </p>
      {wrong && (
        <p role="alert" className="text-small text-stop">
          {wrong}
        </p>
      )}
      {jobs && jobs.of === d && (
        <ul className="text-small" aria-label="Jobs proven">
          {jobs.found.map((j) => (
            <li key={j.job}>
              {j.stops.length ? "" : "✓ "}
              <b className="font-semibold">{j.name}</b>: {many(j.programs, "program")},{" "}
              {j.stops.length
                ? `${many(j.stops.length, "stop")}: ${j.stops[0]}`
                : "proven, nothing stops them"}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
