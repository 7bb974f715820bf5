import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { call, post } from "../api/client";
import { type TableLine, type TableRun } from "../api/model";

/** Runs of sheets of several jobs, and the start of a new one. */
export function Runs() {
  const go = useNavigate(),
    [name, setName] = useState(""),
    [open, setOpen] = useState(false),
    [wrong, setWrong] = useState("");
  const list = useQuery({ queryKey: ["table-runs"], queryFn: () => call<TableLine[]>("/table-runs") });
  const start = () =>
    post<TableRun>("/table-runs", { name })
      .then((d) => go(`/table/${d.run.id}`))
      .catch((e: Error) => setWrong(e.message));
  return (
    <section className="mt-4" aria-label="Tables">
      <h2 className="mb-1 text-head font-semibold">Several jobs on one table</h2>
      <ul>
        {list.data?.map((r) => (
          <li key={r.id} className="mb-1">
            <Link
              to={`/table/${r.id}`}
              className="flex items-baseline justify-between border border-line bg-paper px-4 py-2 hover:border-ink"
            >
              <span className="font-medium">{r.name}</span>
              <span className="label">
                <span className="num">{r.sheets}</span> sheet{r.sheets === 1 ? "" : "s"}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {open ? (
        <form
          className="flex flex-wrap items-baseline gap-2"
          aria-label="New table"
          onSubmit={(e) => {
            e.preventDefault();
            start();
          }}
        >
          <label className="label">
            Name{" "}
            <input
              className="field"
              value={name}
              maxLength={120}
              required
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          <button className="key-strong">Lay the table</button>
          {wrong && (
            <p role="alert" className="text-stop">
              {wrong}
            </p>
          )}
        </form>
      ) : (
        <button className="key" onClick={() => setOpen(true)}>
          + sheets of several jobs, one program
        </button>
      )}
    </section>
  );
}
