import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { post, useJobs, useLibrary } from "../api/edits";
import type { Job } from "../api/model";
import { bare, UnitSwitch, useUnit } from "../shared/lengths";
import { FirstStart } from "./FirstStart";

/** The shop's jobs, and the first step of a new one. */
export function Jobs() {
  const jobs = useJobs("parts"),
    library = useLibrary().data,
    go = useNavigate(),
    { unit } = useUnit();
  const [name, setName] = useState(""),
    [machine, setMachine] = useState(""),
    [material, setMaterial] = useState(""),
    [wrong, setWrong] = useState("");
  const fresh = library?.machine.length === 0;
  const start = async () => {
    try {
      const job = await post<Job>("/jobs", {
        name,
        machine: machine || library?.machine[0]?.id,
        material: material || library?.material[0]?.id,
      });
      go(`/job/${job.id}/parts`);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <main className="mx-auto grid h-full max-w-5xl grid-rows-[auto_1fr] px-6 py-10">
      <header className="mb-8 flex items-baseline gap-6">
        <h1 className="num text-[34px] font-medium tracking-tight">venzo</h1>
        <p className="text-quiet">from drawings to nested, held and proven programs</p>
        <span className="ml-auto flex gap-2">
          <UnitSwitch />
          <Link to="/surfacing" className="key">
            Surfacing bench
          </Link>
          <Link to="/library" className="key">
            Shop library
          </Link>
        </span>
      </header>
      <div
        className={`grid content-start gap-8 ${fresh ? "md:grid-cols-[1fr_2.6fr]" : "md:grid-cols-[1.4fr_1fr]"}`}
      >
        <section aria-label="Jobs">
          <h2 className="mb-2 text-[20px] font-semibold">On the bench</h2>
          {jobs.isLoading && <p role="status">reading ...</p>}
          {jobs.error && (
            <p role="alert" className="text-stop">
              {jobs.error.message}
            </p>
          )}
          {jobs.data?.length === 0 && (
            <p className="text-quiet">
              No jobs yet.{" "}
              {library?.machine.length
                ? "Start one at the right: name it, choose machine and material, then drop its drawings."
                : "First Venzo asks for your machine and what you cut, at the right. Nothing is in the shop library yet but what you put there."}
            </p>
          )}
          <ul>
            {jobs.data?.map((j) => (
              <li key={j.id} className="mb-2">
                <Link
                  to={`/job/${j.id}/nest`}
                  className="flex items-baseline justify-between border border-line bg-paper px-4 py-3 hover:border-ink"
                >
                  <span className="text-[18px] font-medium">{j.name}</span>
                  <span className="label">
                    revision <span className="num">{j.revision}</span>, {j.changed.replace("T", " ")} UTC
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
        {fresh ? (
          <FirstStart known={library!.known} />
        ) : (
          <section aria-label="New job" className="h-fit border border-line bg-paper p-4">
            <h2 className="mb-2 text-[20px] font-semibold">Start a job</h2>
            <form
              className="grid gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                start();
              }}
            >
              <label className="grid">
                <span className="label">name</span>
                <input
                  className="field !font-sans"
                  value={name}
                  maxLength={200}
                  onChange={(e) => setName(e.target.value)}
                  required
                  aria-label="Job name"
                />
              </label>
              <label className="grid">
                <span className="label">machine</span>
                <select
                  className="field !font-sans"
                  value={machine || library?.machine[0]?.id || ""}
                  onChange={(e) => setMachine(e.target.value)}
                >
                  {library?.machine.map((m) => (
                    <option key={m.id} value={m.id}>
                      {m.name}, {bare(m.width, unit, 1)} x {bare(m.height, unit, 1)} {unit}
                    </option>
                  ))}
                </select>
              </label>
              <label className="grid">
                <span className="label">material</span>
                <select
                  className="field !font-sans"
                  value={material || library?.material[0]?.id || ""}
                  onChange={(e) => setMaterial(e.target.value)}
                >
                  {library?.material.map((m) => (
                    <option key={m.id} value={m.id}>
                      {m.name}
                    </option>
                  ))}
                </select>
              </label>
              {wrong && (
                <p role="alert" className="text-stop">
                  {wrong}
                </p>
              )}
              <button className="key-strong mt-1">Start</button>
            </form>
          </section>
        )}
      </div>
    </main>
  );
}
