import { useNavigate, useParams, useSearchParams } from "react-router";

import { Home } from "../app/Home";
import { useTitle } from "../app/title";
import { Reckonings } from "./Reckonings";
import type { Typed } from "./Sum";

/** The reckonings on a page of their own; what is given can stand in the address. */
export function ReckoningsPage() {
  const { name = "chip-load" } = useParams(),
    [given] = useSearchParams(),
    go = useNavigate();
  useTitle("reckonings");
  const start: Typed = [...given].map(([field, text]) => ({ name: field, text, unit: "mm" }));
  return (
    <main className="mx-auto flex h-full max-w-[1280px] flex-col px-6 py-4 max-md:px-3">
      <header className="mb-3 flex items-baseline gap-x-6 border-b-2 border-ink pb-2">
        <Home />
        <h1 className="text-figure font-semibold">Reckonings</h1>
        <p className="text-quiet max-md:hidden">type any field, the others follow; R opens them anywhere</p>
      </header>
      <Reckonings open={name} onOpen={(n) => go(`/reckon/${n}`)} start={start} />
    </main>
  );
}
