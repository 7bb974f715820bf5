import { useState } from "react";
import { Link, useParams } from "react-router";

import { changedFields } from "../api/changes";
import { call, patch, post } from "../api/client";
import { useLibrary } from "../api/queries";
import { UnitSwitch } from "../shared/lengths";
import { Cutters } from "./Cutters";
import { Heads } from "./Heads";
import { Holders } from "./Holders";
import { Machines } from "./Machines";
import { Materials } from "./Materials";
import { Past } from "./Past";
import { Recipes } from "./Recipes";
import { Rules } from "./Rules";
import { type Save, type Ctx, count } from "./shelf";

const SHELVES = [
  ["cutters", "Cutters"],
  ["materials", "Materials"],
  ["machines", "Machines"],
  ["holders", "Holders"],
  ["heads", "Heads"],
  ["recipes", "Recipes"],
  ["rules", "House rules"],
] as const;

/** What the shop owns and knows: cutters, materials, machines, holders, recipes and its rules. Plans keep their own copies and are offered what is newer. */
export function Library() {
  const { shelf = "cutters" } = useParams(),
    library = useLibrary();
  const [said, setSaid] = useState<{ bad: boolean; text: string } | null>(null);
  const [past, setPast] = useState(false);
  if (library.error)
    return (
      <p role="alert" className="p-6 text-stop">
        {library.error.message}
      </p>
    );
  if (!library.data)
    return (
      <p role="status" className="p-6">
        reading ...
      </p>
    );
  const save: Save = async (kind, item) => {
    try {
      const known =
        kind === "rules"
          ? library.data!.rules[0]
          : (library.data![kind as "cutter"] as { id: string }[]).find(
              (k) => k.id === (item as { id: string }).id,
            );
      const fields = known && changedFields(known, item);
      if (!known)
        await call(`/library/${kind}`, {
          method: "PUT",
          headers: { "content-type": "application/json" },
          body: JSON.stringify(item),
        });
      else if (Object.keys(fields!).length)
        await patch(`/library/${kind}/${encodeURIComponent(known.id)}`, fields);
      await library.refetch();
      setSaid(null);
      return true;
    } catch (e) {
      setSaid({ bad: true, text: (e as Error).message });
      return false;
    }
  };
  const remove = async (kind: string, id: string) => {
    try {
      await call(`/library/${kind}/${encodeURIComponent(id)}`, { method: "DELETE" });
      await library.refetch();
      setSaid({ bad: false, text: "Removed from the library. Plans made with it keep their own copy." });
    } catch (e) {
      setSaid({ bad: true, text: (e as Error).message });
    }
  };
  const undo = async () => {
    try {
      const r = await post<{ says: string }>("/library/undo");
      await library.refetch();
      setSaid({ bad: false, text: `${r.says}.` });
    } catch (e) {
      setSaid({ bad: true, text: (e as Error).message });
    }
  };
  const ctx: Ctx = { lib: library.data, save, remove };
  return (
    <main className="mx-auto flex h-full max-w-[1280px] flex-col px-6 py-4">
      <header className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <Link to="/" className="num text-huge font-medium tracking-tight">
          venzo
        </Link>
        <h1 className="text-figure font-semibold">Shop library</h1>
        <span className="ml-auto" />
        <button className="key" onClick={undo}>
          Undo
        </button>
        <button className="key" aria-expanded={past} onClick={() => setPast(!past)}>
          History
        </button>
        <UnitSwitch />
      </header>
      <nav aria-label="Shelves" className="mt-2 flex border-b-2 border-ink">
        {SHELVES.map(([id, title]) => (
          <Link
            key={id}
            to={`/library/${id}`}
            aria-current={shelf === id ? "page" : undefined}
            className={`border-r border-dashed border-line px-4 py-1.5 ${shelf === id ? "bg-paper font-semibold" : "text-quiet hover:bg-accent-soft/60"}`}
          >
            {title} <span className="num text-small">{count(library.data, id)}</span>
          </Link>
        ))}
      </nav>
      {said && (
        <p
          role={said.bad ? "alert" : "status"}
          className={`mt-2 border px-3 py-1.5 ${said.bad ? "border-stop bg-stop-soft text-stop" : "border-line bg-accent-soft"}`}
        >
          {said.text}{" "}
          <button className="underline" onClick={() => setSaid(null)}>
            close
          </button>
        </p>
      )}
      {past && <Past at={library.dataUpdatedAt} say={setSaid} />}
      <div className="min-h-0 flex-1 overflow-auto py-3">
        {shelf === "cutters" && <Cutters {...ctx} refetch={() => library.refetch()} say={setSaid} />}
        {shelf === "materials" && <Materials {...ctx} />}
        {shelf === "machines" && <Machines {...ctx} />}
        {shelf === "holders" && <Holders {...ctx} />}
        {shelf === "heads" && <Heads {...ctx} refetch={() => library.refetch()} />}
        {shelf === "recipes" && <Recipes {...ctx} />}
        {shelf === "rules" && <Rules {...ctx} />}
      </div>
    </main>
  );
}
