import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { call } from "../../api/client";
import type { Job, Setup } from "../../api/model";
import type { components } from "../../api/schema";
import { useJobView } from "../../job/view";
import { TabRow } from "../../shared/TabRow";
import { many } from "../../shared/many";

type ProgramText = components["schemas"]["ProgramText"];
/** Pixels of a line; only lines in sight are drawn. */
const LINE = 20;

/** The programs line by line, behind a fold: the table goes along with the line under the pointer. */
export function CodeFold({ job, setup }: { job: Job; setup: Setup }) {
  const [open, setOpen] = useState(false);
  const { setTime } = useJobView();
  const files = setup.release.files;
  if (!files.length) return null;
  return (
    <section aria-label="Code" className="flex min-h-0 flex-col border-t border-line bg-paper">
      <button
        className="flex w-full items-baseline gap-2 px-3 py-1 text-left"
        aria-expanded={open}
        onClick={() => {
          setOpen(!open);
          setTime(null);
        }}
      >
        <span aria-hidden className={`inline-block w-3 transition-transform ${open ? "rotate-90" : ""}`}>
          ▸
        </span>
        The code of {many(files.length, "program")}
        {open && <span className="label">the table goes along with the line under the pointer</span>}
      </button>
      {open && <Code job={job} setup={setup} />}
    </section>
  );
}

function Code({ job, setup }: { job: Job; setup: Setup }) {
  const { show, setTime } = useJobView();
  const files = setup.release.files;
  const [name, setName] = useState(files[0].name);
  const here = files.some((f) => f.name === name) ? name : files[0].name;
  const found = useQuery({
    queryKey: ["program", job.id, job.revision, here],
    staleTime: Infinity,
    queryFn: () => call<ProgramText>(`/jobs/${job.id}/programs/${encodeURIComponent(here)}`),
  });
  const program = found.data;
  useEffect(() => {
    if (program) show(program.sheet, program.copy_no);
    // only where another program is chosen
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [program?.name]);
  return (
    <>
      <TabRow
        label="Programs"
        tabs={files.map((f) => [f.name, f.name] as const)}
        value={here}
        onPick={setName}
        className="max-h-16 overflow-y-auto px-3 pb-1 text-small"
      />
      {found.error && (
        <p role="alert" className="px-3 text-stop">
          {(found.error as Error).message}
        </p>
      )}
      {program && <Lines key={program.name} program={program} onLine={setTime} />}
    </>
  );
}

/** Lines in sight, with their numbers; the line under the pointer, or the one the arrow keys are on, is told. */
function Lines({ program, onLine }: { program: ProgramText; onLine: (t: number | null) => void }) {
  const box = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0),
    [high, setHigh] = useState(200),
    [line, setLine] = useState<number | null>(null);
  useEffect(() => {
    if (!box.current) return;
    const seen = new ResizeObserver(([e]) => setHigh(e.contentRect.height));
    seen.observe(box.current);
    return () => seen.disconnect();
  }, []);
  useEffect(() => () => onLine(null), [onLine]);
  const tell = (n: number | null) => {
    setLine(n);
    onLine(n === null ? null : (program.at[n] ?? null));
  };
  const first = Math.max(0, Math.floor(top / LINE) - 5),
    last = Math.min(program.lines.length, Math.ceil((top + high) / LINE) + 5);
  const step = (by: number) => {
    const n = Math.min(program.lines.length - 1, Math.max(0, (line ?? -1) + by));
    tell(n);
    const y = n * LINE;
    if (box.current && (y < box.current.scrollTop || y > box.current.scrollTop + high - LINE))
      box.current.scrollTop = y - high / 2;
  };
  return (
    <div
      ref={box}
      className="num h-44 overflow-auto border-t border-line bg-[#fffdf8] text-small"
      role="listbox"
      tabIndex={0}
      aria-label="Program text"
      aria-activedescendant={line === null ? undefined : `line-${line}`}
      data-testid="program"
      onScroll={(e) => setTop(e.currentTarget.scrollTop)}
      onPointerLeave={() => tell(null)}
      onKeyDown={(e) => {
        const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8 }[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        step(by);
      }}
    >
      <div style={{ height: program.lines.length * LINE, position: "relative" }}>
        <div style={{ transform: `translateY(${first * LINE}px)` }}>
          {program.lines.slice(first, last).map((text, i) => {
            const n = first + i;
            return (
              <div
                key={n}
                id={`line-${n}`}
                role="option"
                aria-selected={n === line}
                aria-posinset={n + 1}
                aria-setsize={program.lines.length}
                style={{ height: LINE, lineHeight: `${LINE}px` }}
                className={`flex gap-3 whitespace-pre px-3 ${n === line ? "bg-accent-soft" : ""} ${text.startsWith("(") || text.startsWith(";") ? "text-quiet" : ""}`}
                onPointerEnter={() => tell(n)}
              >
                <span className="w-12 shrink-0 select-none text-right text-quiet">{n + 1}</span>
                {text}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
