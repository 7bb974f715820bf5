import { lazy, Suspense, useEffect, useState } from "react";
import { useNavigate } from "react-router";

import { post } from "../api/client";
import type { Job, Library } from "../api/model";
import { bare, useUnit } from "../shared/lengths";
import { many } from "../shared/many";
import { handOver } from "./handedOver";

// the page is there before its lists can open
const Pick = lazy(() => import("../shared/ShortPick").then((m) => ({ default: m.ShortPick<string> })));

/** The first step of a job: its name, its machine, its material. */
export function NewJob({
  library,
  files = [],
  onForget,
}: {
  library: Library;
  files?: File[];
  onForget?: () => void;
}) {
  const go = useNavigate(),
    { unit } = useUnit();
  const [name, setName] = useState(""),
    [machine, setMachine] = useState(""),
    [material, setMaterial] = useState(""),
    [wrong, setWrong] = useState("");
  useEffect(() => {
    if (files.length) setName((now) => now || files[0].name.replace(/\.[^.]+$/, ""));
  }, [files]);
  const start = async () => {
    try {
      const job = await post<Job>("/jobs", {
        name,
        machine: machine || library.machine[0]?.id,
        material: material || library.material[0]?.id,
      });
      if (files.length) handOver(job.id, files);
      go(`/job/${job.id}/parts`);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <section aria-label="New job" className="h-fit border border-line bg-paper p-4">
      <h2 className="mb-2 text-figure font-semibold">Start a job</h2>
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
          <Suspense fallback={<span className="field">...</span>}>
            <Pick
              label="machine"
              value={machine || library.machine[0]?.id || ""}
              options={library.machine.map((m): [string, string] => [
                m.id,
                `${m.name}, ${bare(m.width, unit, 1)} x ${bare(m.height, unit, 1)} ${unit}`,
              ])}
              onPick={setMachine}
            />
          </Suspense>
        </label>
        <label className="grid">
          <span className="label">material</span>
          <Suspense fallback={<span className="field">...</span>}>
            <Pick
              label="material"
              value={material || library.material[0]?.id || ""}
              options={library.material.map((m): [string, string] => [m.id, m.name])}
              onPick={setMaterial}
            />
          </Suspense>
        </label>
        {files.length > 0 && (
          <p className="text-small" role="status">
            With {files.length === 1 ? files[0].name : many(files.length, "drawing")}.{" "}
            <button type="button" className="underline" onClick={onForget}>
              leave out
            </button>
          </p>
        )}
        {wrong && (
          <p role="alert" className="text-stop">
            {wrong}
          </p>
        )}
        <button className="key-strong mt-1">Start</button>
      </form>
    </section>
  );
}
