import type { ReactNode } from "react";

import { useJobView } from "./view";

/** A station: what is looked at beside the docket, which scrolls by itself. */
export function Frame({ board, docket }: { board: ReactNode; docket: ReactNode }) {
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_352px] max-lg:grid-cols-[minmax(0,1fr)_300px] max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-[minmax(0,11fr)_minmax(0,9fr)] portrait:max-lg:grid-cols-[minmax(0,1fr)] portrait:max-lg:grid-rows-[minmax(0,11fr)_minmax(0,9fr)]">
      <main className="relative min-h-0 min-w-0">
        {board}
        <Notice />
      </main>
      <aside
        // what scrolls must be reached by keyboard
        tabIndex={0}
        className="docket relative min-h-0 overflow-y-auto border-l-2 border-ink bg-[#fbf7ef] px-4 py-3 max-md:border-l-0 max-md:border-t-2 portrait:max-lg:border-l-0 portrait:max-lg:border-t-2"
        aria-label="Docket"
      >
        {docket}
      </aside>
    </div>
  );
}

/** What was said or refused, until it is closed. */
function Notice() {
  const { notice, setNotice } = useJobView().edits;
  if (!notice) return null;
  const bad = notice.kind === "bad";
  return (
    <div
      role={bad ? "alert" : "status"}
      className={`absolute inset-x-6 bottom-4 z-10 flex items-start gap-3 border-l-8 px-3 py-2 shadow-md ${bad ? "border-stop bg-stop-soft" : "border-accent bg-[#fffdf8]"}`}
    >
      <span className="min-w-0 break-words">{notice.text}</span>
      <button className="key ml-auto !py-0" onClick={() => setNotice(null)}>
        Close
      </button>
    </div>
  );
}
