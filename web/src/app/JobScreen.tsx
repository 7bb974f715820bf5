import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";

import { useEdits } from "../api/edits";
import { type Job, type Setup, type Station, STATIONS } from "../api/model";
import { useChanges, useJob, useProof } from "../api/queries";
import { takeOver } from "../desk/handedOver";
import { History } from "../history/History";
import { type JobView, JobViewProvider, useSheet } from "../job/view";
import { onKerfTable } from "../kerf/useKerf";
import { UnitSwitch } from "../shared/lengths";
import { useSearch } from "../stations/nest/useSearch";
import type { Kept } from "../table/camera";
import { JobTape } from "../tape/JobTape";
import { Home } from "./Home";
import { Lost } from "./Lost";
import { RouteBar } from "./RouteBar";
import { SetupBar } from "./SetupBar";
import { useJobKeys } from "./jobKeys";
import { useTitle } from "./title";

const STATION = {
  parts: lazy(() => import("../stations/parts")),
  stock: lazy(() => import("../stations/stock")),
  nest: lazy(() => import("../stations/nest")),
  cuts: lazy(() => import("../stations/cuts")),
  prove: lazy(() => import("../stations/prove")),
  yield: lazy(() => import("../stations/yield")),
  release: lazy(() => import("../stations/release")),
};

/** A job at one of its stations. */
export function JobScreen() {
  const { id = "", station: wanted } = useParams(),
    job = useJob(id);
  useChanges(id);
  const station = STATIONS.find((s) => s.id === wanted)?.id ?? "parts";
  useTitle(job.data?.name, STATIONS.find((s) => s.id === station)?.title);
  if (job.error && !job.data) return <Lost error={job.error} again={() => job.refetch()} />;
  if (!job.data)
    return (
      <main className="p-10" role="status">
        reading the job ...
      </main>
    );
  // a board to surface, or sheets of other jobs
  if (!job.data.setups.length)
    return <Navigate to={job.data.kind === "run" ? `/table/${id}` : `/surfacing/${id}`} replace />;
  return <AtStation key={id} job={job.data} station={station} />;
}

function AtStation({ job, station }: { job: Job; station: Station }) {
  const [history, setHistory] = useState(false);
  const view = useView(job, station);
  const { edits, setup } = view;
  const Here = STATION[station];
  useJobKeys(view);
  const takeIn = edits.drop,
    into = setup.id;
  useEffect(() => {
    const files = takeOver(job.id); // dropped on the desk
    if (files.length) takeIn({ files, setup: into, units: "auto" });
  }, [job.id, into, takeIn]);
  return (
    <JobViewProvider value={view}>
      <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_minmax(0,1fr)_auto]">
        <Header view={view} onHistory={() => setHistory(true)} />
        <RouteBar
          job={job}
          setup={setup}
          station={station}
          go={view.go}
          proof={view.proof}
          nest={view.search.nest}
        />
        <Suspense fallback={<p className="p-6" role="status" />}>
          <Here key={setup.id} />
        </Suspense>
        <JobTape />
        <History id={job.id} open={history} close={() => setHistory(false)} onBack={edits.bringBack} />
      </div>
      {edits.lost && <Lost error={edits.lost} over />}
    </JobViewProvider>
  );
}

function Header({ view, onHistory }: { view: JobView; onHistory: () => void }) {
  const { job, edits } = view;
  return (
    <header className="flex min-w-0 items-center gap-4 bg-bench px-4 py-1.5 max-md:flex-wrap max-md:gap-x-3 max-md:gap-y-0.5">
      <Home />
      <h1 className="truncate text-head font-semibold">{job.name}</h1>
      <SetupBar view={view} />
      <p className="min-w-0 flex-1 truncate text-quiet max-md:hidden" aria-live="polite">
        {edits.busy ? (
          "working ..."
        ) : (
          <>
            change <span className="num">{job.revision}</span>: {job.says}
          </>
        )}
      </p>
      <div className="ml-auto flex items-center gap-2">
        <button className="key" disabled={!job.can_undo || edits.busy} onClick={edits.undo}>
          Undo
        </button>
        <button className="key" disabled={!job.can_redo || edits.busy} onClick={edits.redo}>
          Redo
        </button>
        <button className="key" onClick={onHistory}>
          History
        </button>
        <UnitSwitch />
      </div>
    </header>
  );
}

/** Everything that the stations of a job share. */
function useView(job: Job, station: Station): JobView {
  const to = useNavigate(),
    edits = useEdits(job.id),
    [wanted, setWanted] = useState<string | null>(null),
    setup = job.setups.find((s) => s.id === wanted) ?? job.setups[0];
  const [position, setPosition] = useState(1);
  const [time, setTime] = useState<number | null>(null),
    [looked, keep] = useState<Kept>("sheet");
  const kept = useMemo(() => new Map<string, unknown>(), []);
  const search = useSearch(job, setup, edits);
  const { sheets, sheet, setWhere } = useSheet(setup, search.preview ?? setup.pieces);
  const proof = useProof(
    job.id,
    job.revision,
    setup.sheets.length > 0 || (onKerfTable(setup) && setup.pieces.length > 0),
  ).data?.[setup.id];
  const show = useCallback(
    (s: string, c: number) => {
      setWhere([s, c]);
      setTime(null);
    },
    [setWhere],
  );
  const chosen = useChosen(job, setup, edits, setWhere);
  const { select } = chosen;
  const chooseSetup = useCallback(
    (id: string) => {
      select(null);
      setTime(null);
      setWanted(id);
    },
    [select],
  );
  const go = useCallback((s: Station) => to(`/job/${job.id}/${s}`), [to, job.id]);
  const plan = setup.sheets.find((s) => s.sheet === sheet[0] && s.copy_no === sheet[1]);
  return {
    ...{ job, setup, edits, station, go, proof, search, sheets, sheet, show, plan, time, setTime, kept },
    ...{ position, setPosition },
    chooseSetup,
    ...chosen,
    look: { kept: looked, keep },
  };
}

/** The piece that is chosen; a second one changes places with the first where that was asked for. */
function useChosen(
  job: Job,
  setup: Setup,
  edits: JobView["edits"],
  setWhere: (s: [string, number]) => void,
): Pick<JobView, "selected" | "select" | "chosen" | "choose" | "swap" | "setSwap"> {
  const [all, choose] = useState<string[]>([]),
    [swap, setSwap] = useState<string | null>(null);
  const select = useCallback(
    (id: string | null) => {
      const p = setup.pieces.find((q) => q.id === id),
        first = setup.pieces.find((q) => q.id === swap);
      if (first && p && p.id !== first.id) {
        setSwap(null);
        edits.run({
          kind: "swap-pieces",
          setup: setup.id,
          part: first.part,
          copy_no: first.copy_no,
          other_part: p.part,
          other_copy_no: p.copy_no,
          middles: [middle(job, first.part), middle(job, p.part)],
        });
        return;
      }
      if (!id) setSwap(null);
      choose(id ? [id] : []);
      if (p) setWhere([p.sheet, p.sheet_copy]);
    },
    [setup.pieces, setup.id, swap, job, edits, setWhere],
  );
  // pieces that are gone are let go
  const chosen = useMemo(
    () => (all.length < 2 ? all : all.filter((id) => setup.pieces.some((p) => p.id === id))),
    [all, setup.pieces],
  );
  return { selected: chosen[chosen.length - 1] ?? null, select, chosen, choose, swap, setSwap };
}

function middle(job: Job, part: string): [number, number] {
  const b = job.parts.find((v) => v.id === part)?.box ?? [0, 0, 0, 0];
  return [(b[0] + b[2]) / 2, (b[1] + b[3]) / 2];
}
