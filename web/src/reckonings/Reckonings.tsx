import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import type { Reckoning } from "../api/model";
import { focusHere } from "../shared/keys";
import { UnitSwitch } from "../shared/lengths";
import { Sum, type Typed } from "./Sum";

const useReckonings = () =>
  useQuery({
    queryKey: ["reckonings"],
    queryFn: () => call<Reckoning[]>("/reckonings"),
    staleTime: Infinity,
  });

const fits = (r: Reckoning, words: string[]) => {
  const text = [r.title, r.asks, r.near, ...r.fields.map((f) => f.label)].join(" ").toLowerCase();
  return words.every((w) => text.includes(w));
};

/** All reckonings: found by a word at the left, worked out at the right. */
export function Reckonings({
  open,
  onOpen,
  start = [],
}: {
  open: string;
  onOpen: (name: string) => void;
  start?: Typed;
}) {
  const { data, error } = useReckonings();
  const [find, setFind] = useState("");
  if (error)
    return (
      <p role="alert" className="text-stop">
        {error.message}
      </p>
    );
  if (!data) return <p role="status">reading ...</p>;
  const words = find.toLowerCase().split(/\s+/).filter(Boolean),
    found = data.filter((r) => fits(r, words)),
    here = data.find((r) => r.name === open);
  return (
    <div className="grid min-h-0 flex-1 gap-x-6 gap-y-3 md:grid-cols-[15rem_minmax(0,1fr)]">
      <nav aria-label="Reckonings" className="flex min-h-0 flex-col max-md:max-h-44">
        <input
          ref={focusHere}
          type="search"
          className="field !font-sans"
          placeholder="find: chip, ridge, gauge ..."
          aria-label="Find a reckoning"
          value={find}
          onChange={(e) => setFind(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && found[0]) onOpen(found[0].name);
          }}
        />
        <ul className="mt-1 min-h-0 flex-1 overflow-y-auto">
          {found.map((r) => (
            <li key={r.name}>
              <button
                className={`block w-full px-2 py-1 text-left ${r.name === open ? "bg-accent text-white" : "hover:bg-accent-soft"}`}
                aria-current={r.name === open ? "true" : undefined}
                onClick={() => onOpen(r.name)}
              >
                {r.title}
              </button>
            </li>
          ))}
          {found.length === 0 && <li className="label px-2">No reckoning has these words.</li>}
        </ul>
      </nav>
      <section aria-label="Reckoning" className="min-h-0 overflow-y-auto pr-1">
        {here ? (
          <>
            <div className="flex items-baseline justify-between">
              <h2 className="text-figure font-semibold">{here.title}</h2>
              <UnitSwitch />
            </div>
            <Sum key={here.name} of={here} start={start} />
          </>
        ) : (
          <p>Choose what to work out.</p>
        )}
      </section>
    </div>
  );
}
