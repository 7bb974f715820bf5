import { useState } from "react";

import { useLibrary } from "../api/queries";
import { follows } from "../job/partsIn";
import type { JobView } from "../job/view";
import { Pick } from "../shared/Pick";

const TURN = ["other face", "first face again"];

/** What the job is cut from: a tab for each material and machine, and another one. */
export function SetupBar({ view }: { view: JobView }) {
  const { job, setup, edits, chooseSetup } = view;
  const library = useLibrary().data;
  const [adding, setAdding] = useState(false);
  const offered = (library?.material ?? []).filter((m) => !job.setups.some((s) => s.material.id === m.id));
  if (job.setups.length < 2 && !adding)
    return (
      <button
        className="text-small whitespace-nowrap underline decoration-dotted"
        title="Cut parts of this job from another material too"
        onClick={() => setAdding(true)}
      >
        + another material
      </button>
    );
  const add = (material: string) => {
    setAdding(false);
    const known = new Set(job.setups.map((s) => s.id));
    edits
      .addSetup({ base: job.revision, material })
      .then((after) => {
        const fresh = after.setups.find((s) => !known.has(s.id));
        if (fresh) chooseSetup(fresh.id);
      })
      .catch(() => {}); // said in the notice
  };
  return (
    <nav className="flex min-w-0 items-center gap-1.5 text-small" aria-label="What the job is cut from">
      {job.setups.map((s) => (
        <button
          key={s.id}
          className={s.id === setup.id ? "key-strong truncate !py-0" : "key truncate !py-0"}
          aria-pressed={s.id === setup.id}
          onClick={() => chooseSetup(s.id)}
        >
          {follows(s) ? TURN[s.turned!.number - 2] : s.material.name}
        </button>
      ))}
      {adding ? (
        <Pick
          label="another material"
          placeholder="choose ..."
          value=""
          options={offered.map((m): [string, string] => [m.id, m.name])}
          onPick={add}
        />
      ) : (
        offered.length > 0 && (
          <button className="key !py-0" aria-label="another material" onClick={() => setAdding(true)}>
            +
          </button>
        )
      )}
      {job.setups.length > 1 && !job.parts.some((p) => p.setup === setup.id) && (
        <button
          className="underline decoration-dotted"
          onClick={() => edits.run({ kind: "remove-setup", setup: setup.id })}
        >
          take {follows(setup) ? `the ${TURN[setup.turned!.number - 2]}` : setup.material.name} out
        </button>
      )}
    </nav>
  );
}
