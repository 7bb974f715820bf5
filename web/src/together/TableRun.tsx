import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";

import { call, post } from "../api/client";
import { clock, type TableRun } from "../api/model";
import { useChanges } from "../api/queries";
import { Home } from "../app/Home";
import { Lost } from "../app/Lost";
import { useTitle } from "../app/title";
import { History } from "../history/History";
import { Save } from "../shared/Save";
import { Choice, inUnit, NumberToken } from "../shared/Tokens";
import { Wrong } from "../shared/Wrong";
import { length, metres, UnitSwitch, useUnit } from "../shared/lengths";
import { MARK } from "../shared/marks";
import { LayASheet } from "./LayASheet";
import { TableView } from "./TableView";
import { type ChangeRun } from "./change";

/** A run and how it is changed: one change after the other, what went wrong is said. */
function useTableRun(id: string) {
  const client = useQueryClient(),
    [wrong, setWrong] = useState("");
  const read = useQuery({
    queryKey: ["table-run", id],
    queryFn: () => call<TableRun>(`/table-runs/${id}`),
  });
  useChanges(read.data && id, "table-run");
  const send = useMutation({
    mutationFn: ({ path, body }: { path: string; body: (base: number) => unknown }) =>
      post(`/jobs/${id}${path}`, body(client.getQueryData<TableRun>(["table-run", id])?.revision ?? 0)).then(
        () => client.fetchQuery({ queryKey: ["table-run", id], staleTime: 0, queryFn: read_ }),
      ),
    scope: { id: "table-run" },
    onSuccess: () => setWrong(""),
    onError: (e: Error) => setWrong(e.message),
  });
  const read_ = () => call<TableRun>(`/table-runs/${id}`);
  const change = (c: ChangeRun) =>
    send.mutate({
      path: "/commands",
      body: (base) => ({ base, command: { kind: "change-run", ...c } }),
    });
  const back = (path: "/undo" | "/redo") => send.mutate({ path, body: () => ({}) });
  return { read, change, back, busy: send.isPending, wrong, setWrong };
}

/** Sheets of several jobs on one table, cut by one program. */
export function TableRunScreen() {
  const { id = "" } = useParams(),
    { read, change, back, busy, wrong, setWrong } = useTableRun(id),
    [history, setHistory] = useState(false),
    [held, setHeld] = useState<string | null>(null);
  useTitle(read.data?.name, "one table");
  const d = read.data;
  if (read.error && !d) return <Lost error={read.error} again={() => read.refetch()} />;
  if (!d)
    return (
      <main className="p-10" role="status">
        reading the table ...
      </main>
    );
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)]">
      <header className="flex items-center gap-x-4 gap-y-1 border-b-2 border-ink bg-bench px-4 py-1.5 max-md:flex-wrap">
        <Home />
        <h1 className="text-head font-semibold">{d.name}</h1>
        <p className="min-w-0 truncate text-quiet" aria-live="polite">
          {busy ? "working ..." : `${d.machine || "one table"}; change ${d.revision}: ${d.says}`}
        </p>
        <div className="ml-auto flex items-center gap-2">
          <button className="key" disabled={!d.can_undo} onClick={() => back("/undo")}>
            Undo
          </button>
          <button className="key" disabled={!d.can_redo} onClick={() => back("/redo")}>
            Redo
          </button>
          <button className="key" onClick={() => setHistory(true)}>
            History
          </button>
          <UnitSwitch />
        </div>
      </header>
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_368px] max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-[minmax(0,2fr)_minmax(0,3fr)]">
        <main className="relative min-h-0 min-w-0">
          <TableView
            d={d}
            held={held}
            setHeld={setHeld}
            onSquare={(square) => {
              if (held) change({ change: [{ id: held, fields: { square } }] });
              setHeld(null);
            }}
          />
          <Wrong says={wrong} close={() => setWrong("")} />
        </main>
        <aside
          className="min-h-0 overflow-y-auto border-l-2 border-ink bg-[#fbf7ef] px-4 py-3"
          aria-label="Docket"
        >
          <Docket d={d} id={id} change={change} held={held} setHeld={setHeld} />
        </aside>
      </div>
      <History id={id} open={history} close={() => setHistory(false)} />
    </div>
  );
}

type DocketOf = {
  d: TableRun;
  id: string;
  change: (c: ChangeRun) => void;
  held: string | null;
  setHeld: (id: string | null) => void;
};

/** What lies on the table, what is loaded when, what is to be said of it. */
function Docket({ d, id, change, held, setHeld }: DocketOf) {
  const { unit } = useUnit();
  return (
    <>
      <h2 className="text-figure font-semibold">On one table</h2>
      <p className="leading-[1.65]">
        Sheets of several jobs, cut by one program. X 0 Y 0 is the lower left corner of square 1; Z 0 on{" "}
        <Choice
          label="Z zero"
          value={d.run.z_zero}
          options={[
            ["bed", "the spoilboard"],
            ["top", "top of the material"],
          ]}
          onPick={(z_zero) => change({ z_zero })}
        />
        .
      </p>
      <ul className="mt-2" aria-label="Sheets on the table">
        {d.sheets.map((s) => (
          <li key={s.id} className="rule py-1 text-small">
            <span className="font-medium">{s.called}</span> on square{" "}
            <NumberToken
              label={`square of ${s.called}`}
              value={s.square}
              least={1}
              onCommit={(v) => change({ change: [{ id: s.id, fields: { square: Math.round(v) } }] })}
            />
            {s.wrong ? (
              <span className="text-stop"> {s.wrong}</span>
            ) : (
              <span className="num text-quiet">
                {" "}
                {length(s.width, unit, 0)} x {length(s.height, unit, 0)}, {length(s.thickness, unit)} thick
              </span>
            )}
            <span className="ml-2 inline-flex gap-2">
              <button
                className="underline"
                aria-pressed={held === s.id}
                onClick={() => setHeld(held === s.id ? null : s.id)}
              >
                {held === s.id ? "click its square" : "move"}
              </button>
              <button
                className="underline"
                aria-label={`take off ${s.called}`}
                onClick={() => change({ drop: [s.id] })}
              >
                take off
              </button>
            </span>
          </li>
        ))}
      </ul>
      <LayASheet d={d} change={change} />
      {d.loads.length > 0 && (
        <section className="mt-3" aria-label="Cutters">
          <h3 className="text-head font-semibold">
            {d.loads.length} cutter load{d.loads.length === 1 ? "" : "s"}
            {d.alone > d.loads.length && (
              <span className="label font-normal">, sheet by sheet {d.alone}</span>
            )}
          </h3>
          <ol className="ml-5 list-decimal text-small">
            {d.loads.map((l, i) => (
              <li key={i}>
                <span className="num">T{l.number}</span> {l.name}: {l.cuts} cut{l.cuts === 1 ? "" : "s"} on{" "}
                {new Set(l.sheets).size} sheet{new Set(l.sheets).size === 1 ? "" : "s"}
              </li>
            ))}
          </ol>
          <p className="num mt-1 text-small">
            {clock(d.seconds)}, {metres(d.cut_length, unit)} of cut
          </p>
          <div className="mt-2 flex flex-wrap gap-1.5">
            <Save
              address={`/table-runs/${id}/program`}
              words={d.files.length > 1 ? `${d.files.length} programs` : "Program"}
              strong
            />
            <Save address={`/table-runs/${id}/sheet.pdf`} words="Table sheet to print" />
          </div>
        </section>
      )}
      {d.snags.length > 0 && (
        <section className="mt-3" aria-label="Snags">
          <h3 className="text-head font-semibold">Snags</h3>
          <ul>
            {d.snags.map((s, i) => (
              <li key={s.rule + i} className="rule py-1 text-small">
                <span className={`mr-1.5 border px-1 text-fine ${MARK[s.severity]}`}>{s.severity}</span>
                {inUnit(s.message, unit)}
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
