import { useQueryClient } from "@tanstack/react-query";
import { useContext, useState } from "react";

import { call } from "../api/client";
import type { components } from "../api/schema";
import { many } from "../shared/many";
import { DoneContext } from "./useDeskEdits";

type Imported = components["schemas"]["Imported"];

/** A job that comes from elsewhere: its archive is chosen, or dropped on the page. */
export function BringIn({ archive, onForget }: { archive?: File; onForget?: () => void }) {
  const client = useQueryClient(),
    say = useContext(DoneContext);
  const [along, setAlong] = useState(true),
    [chosen, setChosen] = useState<File | null>(null),
    [wrong, setWrong] = useState(""),
    [open, setOpen] = useState(false),
    [busy, setBusy] = useState(false);
  const file = archive ?? chosen;
  const bring = async () => {
    if (!file) return;
    const form = new FormData();
    form.append("file", file);
    form.append("bring", String(along));
    setBusy(true);
    try {
      const found = await call<Imported>("/archives", { method: "POST", body: form });
      await client.invalidateQueries();
      setWrong("");
      say({ says: told(found) });
      onForget?.();
      setChosen(null);
    } catch (e) {
      setWrong((e as Error).message);
    }
    setBusy(false);
  };
  return (
    <section aria-label="Bring a job in" className="mt-4 h-fit border border-line bg-paper px-4 py-2">
      <details open={open || !!archive} onToggle={(e) => setOpen(e.currentTarget.open)}>
        <summary className="cursor-pointer font-semibold">Bring a job in</summary>
        <label className="grid">
          <span className="label">its archive, as another shop or this one exported it</span>
          <input
            type="file"
            accept=".zip"
            aria-label="Archive of a job"
            className="w-full text-small"
            onChange={(e) => setChosen(e.target.files?.[0] ?? null)}
          />
        </label>
        <label className="mt-1 flex gap-2 text-small">
          <input type="checkbox" checked={along} onChange={(e) => setAlong(e.target.checked)} />
          enter its machines, materials and cutters that this shop does not have
        </label>
        {archive && (
          <p className="text-small" role="status">
            {archive.name}{" "}
            <button className="underline" onClick={onForget}>
              leave out
            </button>
          </p>
        )}
        <button className="key mt-2" disabled={!file || busy} onClick={bring}>
          {busy ? "Reading it ..." : "Bring it in"}
        </button>
        {wrong && (
          <p role="alert" className="mt-1 text-small text-stop">
            {wrong}
          </p>
        )}
      </details>
    </section>
  );
}

/** What came of it, in a sentence. */
function told(found: Imported): string {
  const said = [
    `${found.name} was brought in`,
    found.same
      ? "all that follows from it is as it was"
      : `${many(found.differs.length, "file")} come out otherwise here: ${found.differs.slice(0, 3).join(", ")}`,
  ];
  if (found.brought.length) said.push(`entered into the library: ${found.brought.join(", ")}`);
  if (found.others.length)
    said.push(`this shop has otherwise, and offers at the job: ${found.others.join(", ")}`);
  if (found.let_go.length) said.push(`of no lot in this rack: ${found.let_go.join(", ")}`);
  return said.join("; ");
}
