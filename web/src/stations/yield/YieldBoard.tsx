import { type Job, type Setup } from "../../api/model";
import { useJobView, useKept } from "../../job/view";
import { Costs } from "./Costs";
import { SheetFigure } from "./SheetFigure";
import { UseBar } from "./UseBar";
import { WhatIf } from "./WhatIf";
import { useYield } from "./useYield";

const TABS = [
  ["sheets", "Where it goes"],
  ["cost", "What it costs"],
  ["what if", "What else it could be"],
] as const;
type Tab = (typeof TABS)[number][0];

/** The material as it is used: drawn sheets, costs by part, and what the order could be otherwise. */
export function YieldBoard({ job, setup }: { job: Job; setup: Setup }) {
  const { edits } = useJobView();
  const [tab, setTab] = useKept<Tab>("yield-tab", "sheets");
  if (!setup.yields.sheets.length)
    return (
      <p className="grid h-full place-items-center text-quiet">Nothing is nested yet, so nothing is used.</p>
    );
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)]">
      <nav aria-label="Yield" className="flex flex-wrap gap-1.5 border-b border-line px-4 py-2">
        {TABS.map(([id, title]) => (
          <button
            key={id}
            className={tab === id ? "key-strong" : "key"}
            aria-pressed={tab === id}
            onClick={() => setTab(id)}
          >
            {title}
          </button>
        ))}
      </nav>
      <div
        className="min-h-0 overflow-auto p-4"
        role="region"
        aria-label={TABS.find(([id]) => id === tab)![1]}
        tabIndex={0}
      >
        {tab === "sheets" && <Sheets job={job} setup={setup} />}
        {tab === "cost" && <Costs job={job} setup={setup} />}
        {tab === "what if" && <WhatIf job={job} setup={setup} edits={edits} />}
      </div>
    </div>
  );
}

function Sheets({ job, setup }: { job: Job; setup: Setup }) {
  const found = useYield(job);
  const mine = found.data?.sheets.filter((s) => s.setup === setup.id && hasSheet(setup, s.sheet)) ?? [];
  const whole = found.data?.setups.find((s) => s.setup === setup.id);
  if (found.error)
    return (
      <p role="alert" className="text-stop">
        {found.error.message}
      </p>
    );
  if (!whole)
    return (
      <p role="status" className="label">
        sweeping the programs over the sheets ...
      </p>
    );
  return (
    <div className="grid gap-4">
      <UseBar areas={whole.use.area_mm2} what={`All sheets of ${setup.name}`} />
      {mine.map((s, i) => (
        <SheetFigure key={`${s.sheet}/${s.sheet_copy}`} job={job} setup={setup} use={s} n={i + 1} />
      ))}
    </div>
  );
}

const hasSheet = (setup: Setup, sheet: string) => setup.stock.some((s) => s.id === sheet);
