import { createContext, lazy, type ReactNode, Suspense, useContext, useState } from "react";

import { typing, useKeys, withModifier } from "../shared/keys";
import type { Typed } from "./Sum";

const Panel = lazy(() => import("./ReckoningsPanel"));
const Open = createContext<(name: string, start?: Typed) => void>(() => {});

/** R opens the reckonings over any page, at the one that was last open. */
export function ReckoningsAnywhere({ children }: { children: ReactNode }) {
  const [name, setName] = useState("chip-load"),
    [start, setStart] = useState<Typed | null>(null);
  useKeys((e) => {
    if (e.key.toLowerCase() !== "r" || typing(e) || withModifier(e)) return;
    e.preventDefault();
    setStart([]);
  });
  const open = (which: string, given: Typed = []) => {
    setName(which);
    setStart(given);
  };
  return (
    <Open.Provider value={open}>
      {children}
      <Suspense fallback={null}>
        {start && <Panel open={name} start={start} onOpen={(n) => open(n)} close={() => setStart(null)} />}
      </Suspense>
    </Open.Provider>
  );
}

/** A word that opens a reckoning with the values that stand where it is; ``given`` in the core's metric units. */
export function Reckon({
  name,
  given = {},
  children,
}: {
  name: string;
  given?: Record<string, string>;
  children: ReactNode;
}) {
  const open = useContext(Open);
  return (
    <button
      type="button"
      className="min-h-6 text-small text-accent underline decoration-dotted underline-offset-2"
      onClick={() =>
        open(
          name,
          Object.entries(given).map(([field, text]) => ({ name: field, text, unit: "mm" })),
        )
      }
    >
      {children}
    </button>
  );
}
