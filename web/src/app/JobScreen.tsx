import { useCallback, useEffect, useRef, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";

import { listChange, nestState, post, useEdits, useChanges, useJob, useProof } from "../api/edits";
import { STATIONS, type Job, type NestState, type Piece, type Setup, type Station } from "../api/model";
import { CarveBoard, NO_LOOK, type CarveLook } from "../carving/CarveBench";
import { MakeBoard, MakeDocket, useDrawn, type Making } from "../making/MakeBench";
import { UnitSwitch } from "../shared/lengths";
import { ProveDocket, ReleaseDocket, YieldBoard, YieldDocket } from "../stations/EndStations";
import { CutsDocket, type CutsView } from "../stations/cuts/CutsStation";
import { NestDocket } from "../stations/nest/NestStation";
import { PartBoard, PartOpenDocket, usePartOpen, type Look } from "../stations/parts/PartOpen";
import { PartsDocket, PartsWall } from "../stations/parts/PartsStation";
import { RevisionBoard } from "../stations/parts/RevisionBoard";
import { ReleaseBoard } from "../stations/release/ReleaseBoard";
import { StockDocket, type Sketch } from "../stations/stock/StockStation";
import { TableView } from "../table/TableView";
import { Tape } from "../tape/Tape";
import { History } from "./History";
import { RouteBar } from "./RouteBar";

export function JobScreen() {
  const { id = "", station: wanted } = useParams(),
    job = useJob(id);
  useChanges(id);
  const station = STATIONS.find((s) => s.id === wanted)?.id ?? "parts";
  if (job.error)
    return (
      <main className="p-10">
        <p role="alert" className="text-[18px] text-stop">
          {job.error.message}
        </p>
        <Link className="underline" to="/">
          All jobs
        </Link>
      </main>
    );
  if (!job.data)
    return (
      <main className="p-10" role="status">
        reading the job ...
      </main>
    );
  if (!job.data.setups.length) return <Navigate to={`/surfacing/${id}`} replace />; // a board to surface
  return <Loaded key={id} job={job.data} station={station} />;
}

function Loaded({ job, station }: { job: Job; station: Station }) {
  const go = useNavigate(),
    edits = useEdits(job.id),
    setup: Setup = job.setups[0];
  const [selected, setSelected] = useState<string | null>(null),
    [part, setPart] = useState<string | null>(null);
  const [where, setWhere] = useState<[string, number] | null>(null),
    [time, setTime] = useState<number | null>(null),
    [history, setHistory] = useState(false);
  const [open, setOpen] = useState(false),
    [making, setMaking] = useState<Making | null>(null),
    [look, setLook] = useState<Look>({ cutter: null, heal: null, hover: null }),
    [style, setStyle] = useState("dog-bone");
  const opened =
      open && station === "parts" ? job.parts.find((p) => p.id === part && p.setup === setup.id) : undefined,
    facts = usePartOpen(job, opened),
    drawn = useDrawn(making?.recipe);
  const openPart = (id: string) => {
    setPart(id);
    setOpen(true);
    setMaking(null);
    setLook({ cutter: null, heal: null, hover: null });
  };
  const change = (d: string) => {
    const made = job.drawings.find((x) => x.id === d)?.made;
    if (made) {
      setOpen(false);
      setMaking({ recipe: made, drawing: d });
    }
  };
  const relieve = ([x, y]: [number, number]) => {
    const op = setup.operations.find((o) => o.on === "outlines"),
      c = setup.cutters.find((k) => k.id === op?.cutter);
    if (opened)
      edits.run({
        kind: "alter-part",
        part: opened.id,
        add: { kind: "relief", style, radius: (c?.diameter ?? 6) / 2 + 0.05, at: [[x, y]], under: 179 },
      });
  };
  const [sketch, setSketch] = useState<Sketch>(null),
    [stockShown, setStockShown] = useState<string | null>(null);
  const [seconds, setSeconds] = useState(8),
    [swap, setSwap] = useState<string | null>(null);
  const [watch, setWatch] = useState(true),
    [view, setView] = useState<CutsView>("cut"),
    [carve, setCarve] = useState<CarveLook>(NO_LOOK);
  const { nest, preview: live, start, stop } = useNest(job, setup, edits, seconds),
    preview = watch ? live : null;
  const proof = useProof(job.id, job.revision, setup.sheets.length > 0).data?.[setup.id];
  const shown = preview ?? setup.pieces;
  const sheets = [
    ...new Map(
      shown.map((p) => [`${p.sheet}/${p.sheet_copy}`, [p.sheet, p.sheet_copy] as [string, number]]),
    ).values(),
  ].sort((a, b) => a[0].localeCompare(b[0]) || a[1] - b[1]);
  const [sheet, copy] =
    where && sheets.some((s) => s[0] === where[0] && s[1] === where[1])
      ? where
      : (sheets[0] ?? [setup.stock.find((s) => s.quantity)?.id ?? "", 0]);
  const atStock =
    station !== "stock" ? null : (sketch?.stock ?? setup.stock.find((s) => s.id === stockShown)?.id ?? null);
  const plan = setup.sheets.find((s) => s.sheet === sheet && s.copy_no === copy);
  const show = useCallback((s: string, c: number) => {
    setWhere([s, c]);
    setTime(null);
  }, []);
  const select = useCallback(
    (pid: string | null) => {
      const p = setup.pieces.find((q) => q.id === pid),
        first = setup.pieces.find((q) => q.id === swap);
      if (first && p && p.id !== first.id) {
        const middle = (id: string) => {
          const b = job.parts.find((v) => v.id === id)?.box ?? [0, 0, 0, 0];
          return [(b[0] + b[2]) / 2, (b[1] + b[3]) / 2];
        };
        setSwap(null);
        edits.run({
          kind: "swap-pieces",
          setup: setup.id,
          part: first.part,
          copy_no: first.copy_no,
          other_part: p.part,
          other_copy_no: p.copy_no,
          middles: [middle(first.part), middle(p.part)],
        });
        return;
      }
      if (!pid) setSwap(null);
      setSelected(pid);
      if (p) setWhere([p.sheet, p.sheet_copy]);
    },
    [setup.pieces, setup.id, swap, job.parts, edits],
  );
  const to = useCallback((s: Station) => go(`/job/${job.id}/${s}`), [go, job.id]);

  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && /^(INPUT|SELECT|TEXTAREA)$/.test(e.target.tagName);
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing) {
        e.preventDefault();
        if (e.shiftKey) edits.redo();
        else edits.undo();
        return;
      }
      if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      const n = Number(e.key);
      if (n >= 1 && n <= STATIONS.length) to(STATIONS[n - 1].id);
      // the address, not the state: it is right at once when 3 and N follow each other quickly
      if (
        (e.key === "n" || e.key === "N") &&
        window.location.pathname.endsWith("/nest") &&
        nest?.state !== "running"
      )
        start();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });

  const { notice, setNotice } = edits;
  useEffect(() => {
    if (notice?.kind !== "said") return;
    const timer = setTimeout(() => setNotice(null), 5000);
    return () => clearTimeout(timer);
  }, [notice, setNotice]);

  const move = (p: Piece) =>
    edits.run({
      kind: "move-piece",
      setup: setup.id,
      part: p.part,
      copy_no: p.copy_no,
      x: round(p.x),
      y: round(p.y),
      rotation: p.rotation,
      mirrored: p.mirrored,
      sheet: p.sheet,
      sheet_copy: p.sheet_copy,
    });
  const tape = (station === "cuts" || station === "prove") && plan && plan.cuts.length > 0;
  return (
    <div className="grid h-full grid-rows-[auto_auto_1fr_auto]">
      <header className="flex items-center gap-4 bg-bench px-4 py-1.5">
        <Link to="/" className="num text-[19px] font-medium tracking-tight" aria-label="venzo, all jobs">
          venzo
        </Link>
        <h1 className="truncate text-[17px] font-semibold">{job.name}</h1>
        <p className="min-w-0 truncate text-quiet" aria-live="polite">
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
          <button className="key" onClick={() => setHistory(true)}>
            History
          </button>
          <UnitSwitch />
        </div>
      </header>
      <RouteBar job={job} setup={setup} station={station} go={to} proof={proof} nest={nest} />
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_352px]">
        <main className="relative min-h-0 min-w-0">
          {station === "parts" ? (
            edits.revised.length ? (
              <RevisionBoard
                key={edits.revised[0].file.name}
                revised={edits.revised[0]}
                setup={setup}
                edits={edits}
              />
            ) : making ? (
              <MakeBoard {...drawn} onClose={() => setMaking(null)} />
            ) : opened ? (
              <PartBoard
                part={opened}
                {...facts}
                look={look}
                onCorner={relieve}
                onClose={() => setOpen(false)}
              />
            ) : (
              <PartsWall
                job={job}
                setup={setup}
                edits={edits}
                selected={part}
                onSelect={setPart}
                onOpen={openPart}
                onMake={() =>
                  setMaking({
                    recipe: { kind: "panel", width: 600, height: 400, corner: "rounded", size: 30 },
                  })
                }
              />
            )
          ) : station === "yield" ? (
            <YieldBoard job={job} setup={setup} />
          ) : station === "cuts" && view === "carve" ? (
            <CarveBoard job={job} setup={setup} look={carve} setLook={setCarve} />
          ) : station === "release" ? (
            <ReleaseBoard job={job} setup={setup} />
          ) : (
            <TableView
              job={job}
              setup={setup}
              sheet={atStock ?? sheet}
              copy={atStock && atStock !== sheet ? 0 : copy}
              sketch={station === "stock" ? sketch?.points : undefined}
              onSketch={(p) => sketch && setSketch({ ...sketch, points: [...sketch.points, p] })}
              station={station}
              selected={selected}
              onSelect={select}
              time={tape ? time : null}
              preview={preview}
              onMove={move}
              onTabs={(p, contour, tabs) =>
                edits.run({
                  kind: "set-contour",
                  part: p,
                  contour,
                  tabs: tabs.map(([x, y]) => [round(x), round(y)]),
                })
              }
              onScrews={(screws) =>
                edits.run({ kind: "change-screws", setup: setup.id, ...listChange(setup.screws, screws) })
              }
              onFixings={(fixings) =>
                edits.run({ kind: "change-fixings", setup: setup.id, ...listChange(setup.fixings, fixings) })
              }
              onStart={(p, contour, [x, y]) =>
                edits.run({ kind: "set-contour", part: p, contour, start: [round(x), round(y)] })
              }
            />
          )}
          {["stock", "nest", "cuts", "prove"].includes(station) &&
            !(station === "cuts" && view === "carve") &&
            sheets.length > 1 && (
              <div
                className="absolute left-11 top-2 flex gap-1 text-[13px]"
                role="tablist"
                aria-label="Sheets"
              >
                {sheets.map((s, i) => (
                  <button
                    key={s.join("/")}
                    role="tab"
                    aria-selected={s[0] === (atStock ?? sheet) && s[1] === copy}
                    className={`${s[0] === (atStock ?? sheet) && s[1] === copy ? "key-strong" : "key"} !py-0`}
                    onClick={() => {
                      setStockShown(null);
                      show(...s);
                    }}
                  >
                    Sheet {i + 1}
                  </button>
                ))}
              </div>
            )}
          {edits.notice && (
            <div
              role={edits.notice.kind === "bad" ? "alert" : "status"}
              className={`absolute inset-x-6 bottom-4 z-10 flex items-start gap-3 border-l-8 px-3 py-2 shadow-md ${edits.notice.kind === "bad" ? "border-stop bg-stop-soft" : "border-accent bg-[#fffdf8]"}`}
            >
              <span className="min-w-0 break-words">{edits.notice.text}</span>
              <button className="key ml-auto !py-0" onClick={() => edits.setNotice(null)}>
                Close
              </button>
            </div>
          )}
        </main>
        <aside
          className="min-h-0 overflow-y-auto border-l-2 border-ink bg-[#fbf7ef] px-4 py-3"
          aria-label="Docket"
        >
          {station === "parts" &&
            (making ? (
              <MakeDocket
                job={job}
                setup={setup}
                edits={edits}
                making={making}
                setMaking={setMaking}
                {...drawn}
                onDone={() => setMaking(null)}
              />
            ) : opened ? (
              <PartOpenDocket
                key={opened.id}
                job={job}
                part={opened}
                setup={setup}
                edits={edits}
                look={look}
                setLook={setLook}
                style={style}
                setStyle={setStyle}
                {...facts}
                general={
                  <PartsDocket
                    job={job}
                    setup={setup}
                    edits={edits}
                    selected={part}
                    onSelect={(p) => {
                      setPart(p);
                      if (!p) setOpen(false);
                    }}
                    onChange={change}
                    opened
                  />
                }
              />
            ) : (
              <PartsDocket
                job={job}
                setup={setup}
                edits={edits}
                selected={part}
                onSelect={setPart}
                onOpen={openPart}
                onChange={change}
              />
            ))}
          {station === "stock" && (
            <StockDocket
              setup={setup}
              edits={edits}
              sketch={sketch}
              setSketch={setSketch}
              onShow={setStockShown}
            />
          )}
          {station === "nest" && (
            <NestDocket
              job={job}
              setup={setup}
              edits={edits}
              selected={selected}
              nest={nest}
              seconds={seconds}
              setSeconds={setSeconds}
              swap={swap}
              setSwap={setSwap}
              watch={watch}
              setWatch={setWatch}
              onNest={start}
              onStop={stop}
              onSelect={select}
              show={show}
              at={[sheet, copy]}
            />
          )}
          {station === "cuts" && (
            <CutsDocket
              job={job}
              setup={setup}
              edits={edits}
              selected={selected}
              plan={plan}
              onSelect={select}
              time={time}
              setTime={setTime}
              view={view}
              setView={setView}
              carve={carve}
              setCarve={setCarve}
            />
          )}
          {station === "prove" && <ProveDocket setup={setup} proof={proof} edits={edits} />}
          {station === "yield" && <YieldDocket job={job} setup={setup} />}
          {station === "release" && <ReleaseDocket job={job} setup={setup} proof={proof} edits={edits} />}
        </aside>
      </div>
      {tape ? (
        <Tape
          job={job}
          setup={setup}
          plan={plan}
          time={time}
          setTime={setTime}
          selected={selected}
          onSelect={select}
          onMove={
            station === "cuts"
              ? (cut, before) =>
                  edits.run({
                    kind: "move-cut",
                    setup: setup.id,
                    sheet: plan.sheet,
                    sheet_copy: plan.copy_no,
                    cut,
                    before,
                  })
              : undefined
          }
        />
      ) : (
        <span />
      )}
      <History id={job.id} open={history} close={() => setHistory(false)} />
    </div>
  );
}

const round = (v: number) => Math.round(v * 1e4) / 1e4;

/** A nest in the background: polled while it runs, its best layout shown as it improves, the job read again when it is accepted. */
function useNest(job: Job, setup: Setup, edits: ReturnType<typeof useEdits>, seconds: number) {
  const [nest, setNest] = useState<NestState | null>(null),
    [preview, setPreview] = useState<Piece[] | null>(null);
  const found = useRef(-1),
    [watching, setWatching] = useState(false);
  const { refresh, setNotice } = edits;
  const take = useCallback((s: NestState) => {
    setNest(s.state === "none" ? null : s);
    if (s.best && s.state === "running")
      setPreview(
        s.best.placements.map((p) => ({
          ...p,
          id: `${p.part}#${p.copy + 1}`,
          copy_no: p.copy,
          locked: false,
        })),
      );
    if (s.found !== undefined) found.current = s.found;
  }, []);
  useEffect(() => {
    nestState(job.id, setup.id, 1e9)
      .then((s) => {
        if (s.state === "running" || s.state === "waiting") {
          found.current = -1;
          setWatching(true);
        }
      })
      .catch(() => {});
  }, [job.id, setup.id]);
  useEffect(() => {
    if (!watching) return;
    let over = false;
    const timer = setInterval(() => {
      nestState(job.id, setup.id, found.current)
        .then((s) => {
          if (over) return;
          if (s.state === "running" || s.state === "waiting") {
            take(s);
            return;
          }
          over = true;
          // the keys come back only when the job has been read again: an edit made before would rest on the layout that is gone
          refresh().finally(() => {
            take(s);
            setWatching(false);
            setPreview(null);
            if (s.state === "failed" || s.state === "outdated")
              setNotice({ kind: "bad", text: s.message ?? "the nest failed" });
          });
        })
        .catch(() => {});
    }, 350);
    return () => {
      over = true;
      clearInterval(timer);
    };
  }, [watching, job.id, setup.id, take, refresh, setNotice]);
  const start = (afresh = false) => {
    found.current = -1;
    post<NestState>(`/jobs/${job.id}/nest`, { setup: setup.id, seconds, seed: job.revision, afresh })
      .then((s) => {
        take(s);
        setWatching(true);
      })
      .catch((e: Error) => setNotice({ kind: "bad", text: e.message }));
  };
  const stop = () => {
    post(`/jobs/${job.id}/nest/stop?setup=${encodeURIComponent(setup.id)}`).catch(() => {});
  };
  return { nest, preview, start, stop };
}
