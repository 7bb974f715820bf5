import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { useNavigate, useParams } from "react-router";

import { changedFields } from "../api/changes";
import { call, patch, post } from "../api/client";
import {
  clock,
  type Bench,
  type BenchLine,
  type BenchView,
  type Board,
  type KeepOut,
  type Snag,
  type StepOver,
  type Surfacing as How,
  type XY,
} from "../api/model";
import { useChanges, useLibrary } from "../api/queries";
import { History } from "../app/History";
import { Home } from "../app/Home";
import { Pick } from "../shared/Pick";
import { Choice, inUnit, LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { focusHere } from "../shared/keys";
import { bare, length, LengthField, metres, UnitSwitch, useUnit } from "../shared/lengths";

type Tab = "cut" | "flat" | "ridges" | "ledger";
const TABS: [Tab, string][] = [
  ["cut", "how cut"],
  ["flat", "how flat"],
  ["ridges", "ridges and tram"],
  ["ledger", "ledger"],
];

/** The surfacing bench: spoilboards and boards, on their tables. */
export function SurfacingScreen() {
  const { board } = useParams(),
    go = useNavigate(),
    client = useQueryClient();
  const list = useQuery({ queryKey: ["benches"], queryFn: () => call<BenchLine[]>("/surfacing") });
  const id = board ?? list.data?.[0]?.id;
  const view = useQuery({
    queryKey: ["bench", id],
    enabled: !!id,
    queryFn: () => call<BenchView>(`/surfacing/${id}`),
  });
  useChanges(view.data?.bench.id, "bench");
  const [history, setHistory] = useState(false);
  const [wrong, setWrong] = useState(""),
    [tab, setTab] = useState<Tab>("cut"),
    [others, setOthers] = useState<string[]>([]);
  useEffect(() => setOthers([]), [id]);
  const change = useMutation({
    mutationFn: (make: () => Promise<BenchView>) => make(),
    scope: { id: "bench" },
    onSuccess: (v) => {
      client.setQueryData(["bench", v.bench.id], v);
      client.invalidateQueries({ queryKey: ["benches"] });
      setWrong("");
    },
    onError: (e: Error) => setWrong(e.message),
  });
  const put = (f: Partial<Bench>) => {
    const fields = changedFields(v!.bench, f);
    if (Object.keys(fields).length) change.mutate(() => patch<BenchView>(`/surfacing/${id}`, fields));
  };
  const send = (path: string, body: unknown) =>
    change.mutate(() => post<BenchView>(`/surfacing/${id}${path}`, body));
  const v = view.data,
    { unit } = useUnit();
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_minmax(0,1fr)]">
      <header className="flex items-center gap-4 bg-bench px-4 py-1.5">
        <Home />
        <h1 className="text-head font-semibold">Surfacing bench</h1>
        <p className="min-w-0 truncate text-quiet" aria-live="polite">
          {change.isPending || view.isFetching ? (
            "working ..."
          ) : v ? (
            <>
              {v.bench.board.name}
              {v.machine ? ` on ${v.machine.name}` : ""}; change <span className="num">{v.revision}</span>:{" "}
              {v.says}
            </>
          ) : (
            ""
          )}
        </p>
        <div className="ml-auto flex items-center gap-2">
          <button
            className="key"
            disabled={!v?.can_undo}
            title="Take the last change of this board back; its ledger stays"
            onClick={() => send("/undo", {})}
          >
            Undo
          </button>
          <button className="key" disabled={!v?.can_redo} onClick={() => send("/redo", {})}>
            Redo
          </button>
          <button className="key" disabled={!v} onClick={() => setHistory(true)}>
            History
          </button>
          <UnitSwitch />
        </div>
      </header>
      <nav
        className="flex gap-1.5 overflow-x-auto border-b-2 border-ink bg-bench px-4 pb-1.5 text-small"
        aria-label="Boards"
      >
        {list.data?.map((b) => (
          <button
            key={b.id}
            className={`border px-3 py-1 text-left ${b.id === id ? "border-ink bg-paper" : "border-line bg-board"}`}
            aria-current={b.id === id}
            onClick={() => go(`/surfacing/${b.id}`)}
          >
            <b className="font-semibold">{b.name}</b>{" "}
            <span className="num">{bare(b.thickness, unit, unit === "mm" ? 1 : 2)}</span>
            {b.due && <span className="ml-1.5 border border-look px-1 text-fine text-look">due</span>}
          </button>
        ))}
        <NewBoard
          onMade={(made) => {
            client.invalidateQueries({ queryKey: ["benches"] });
            go(`/surfacing/${made}`);
          }}
        />
      </nav>
      {!v ? (
        <main className="grid place-items-center text-quiet">
          {view.error ? (
            <p role="alert" className="text-stop">
              {(view.error as Error).message}
            </p>
          ) : list.data?.length === 0 ? (
            <p>
              No board yet. Put a spoilboard or a board on the bench above: its size, its thickness, its
              machine.
            </p>
          ) : (
            <p role="status">reading ...</p>
          )}
        </main>
      ) : (
        <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_368px]">
          <main
            className={`relative grid min-h-0 min-w-0 ${tab === "ridges" ? "grid-rows-[minmax(0,1fr)_290px]" : ""}`}
          >
            <BoardView view={v} tab={tab} others={(list.data ?? []).filter((o) => others.includes(o.id))} />
            {tab === "ridges" && (
              <TradeOff view={v} onPick={(step_over) => put({ how: { ...v.bench.how, step_over } })} />
            )}
            {wrong && (
              <div
                role="alert"
                className="absolute inset-x-6 bottom-4 z-10 flex gap-3 border-l-8 border-stop bg-stop-soft px-3 py-2 shadow-md"
              >
                <span>{wrong}</span>
                <button className="key ml-auto !py-0" onClick={() => setWrong("")}>
                  Close
                </button>
              </div>
            )}
          </main>
          <aside
            className="min-h-0 overflow-y-auto border-l-2 border-ink bg-[#fbf7ef] px-4 py-3"
            aria-label="Docket"
          >
            <div
              className="-mt-1 mb-2 flex gap-3.5 border-b border-line text-plain"
              role="tablist"
              aria-label="What is looked at"
            >
              {TABS.map(([t, words]) => (
                <button
                  key={t}
                  role="tab"
                  aria-selected={tab === t}
                  className={`-mb-px pb-0.5 ${tab === t ? "border-b-[3px] border-accent font-semibold" : "text-quiet"}`}
                  onClick={() => setTab(t)}
                >
                  {words}
                </button>
              ))}
            </div>
            {v.news && (
              <p className="mb-2 flex items-baseline justify-between gap-2 border border-line bg-accent-soft px-2 py-1 text-small">
                <span>
                  The library has changed {v.news.name}: {v.news.changes.join(", ")}.
                </span>
                <button
                  className="key !py-0"
                  onClick={() => put({ how: { ...v.bench.how, ...v.news!.how } })}
                >
                  Adopt
                </button>
              </p>
            )}
            {tab === "cut" ? (
              <CutTab view={v} put={put} list={list.data ?? []} others={others} setOthers={setOthers} />
            ) : tab === "flat" ? (
              <FlatTab view={v} send={send} put={put} />
            ) : tab === "ridges" ? (
              <RidgeTab view={v} put={put} />
            ) : (
              <LedgerTab
                view={v}
                send={send}
                put={put}
                onGone={() => {
                  client.removeQueries({ queryKey: ["bench", id] });
                  client.invalidateQueries({ queryKey: ["benches"] });
                  go("/surfacing");
                }}
              />
            )}
            <Said snags={v.snags} put={put} view={v} send={send} />
          </aside>
        </div>
      )}
      {v && <History id={v.bench.id} open={history} close={() => setHistory(false)} />}
    </div>
  );
}

function NewBoard({ onMade }: { onMade: (id: string) => void }) {
  const [open, setOpen] = useState(false),
    [name, setName] = useState(""),
    [kind, setKind] = useState<Board["kind"]>("board"),
    [w, setW] = useState(800),
    [h, setH] = useState(300),
    [t, setT] = useState(30),
    [machine, setMachine] = useState(""),
    [wrong, setWrong] = useState("");
  const library = useLibrary().data;
  const make = async () => {
    const id =
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "") || "board";
    try {
      const board = {
        id,
        name,
        kind,
        machine: machine || library?.machine[0]?.id || null,
        x: 100,
        y: 100,
        width: w,
        height: h,
        thickness: t,
        least: Math.min(9, t / 2),
      };
      await call(`/surfacing/${id}`, {
        method: "PUT",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ id, board }),
      });
      setOpen(false);
      setName("");
      onMade(id);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  if (!open)
    return (
      <button className="key" onClick={() => setOpen(true)}>
        + a board
      </button>
    );
  return (
    <form
      className="absolute left-1/2 top-20 z-20 grid w-[330px] -translate-x-1/2 gap-1 border-2 border-ink bg-paper p-4 shadow-lg"
      onSubmit={(e) => {
        e.preventDefault();
        make();
      }}
      aria-label="New board"
    >
      <label className="grid">
        <span className="label">name</span>
        <input
          className="field !font-sans"
          ref={focusHere}
          required
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
          aria-label="Name of the board"
        />
      </label>
      <label className="grid">
        <span className="label">it is</span>
        <Pick
          label="Kind of board"
          value={kind}
          options={[
            ["board", "a board to be planed"],
            ["spoilboard", "a spoilboard"],
          ]}
          onPick={setKind}
        />
      </label>
      <label className="grid">
        <span className="label">machine</span>
        <Pick
          label="Machine"
          value={machine || library?.machine[0]?.id || ""}
          options={(library?.machine ?? []).map((m): [string, string] => [m.id, m.name])}
          onPick={setMachine}
        />
      </label>
      <LengthField label="length along X" mm={w} onCommit={setW} />
      <LengthField label="width along Y" mm={h} onCommit={setH} />
      <LengthField label="thickness" mm={t} onCommit={setT} />
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-1 flex gap-2">
        <button className="key-strong">Put it on the bench</button>
        <button type="button" className="key" onClick={() => setOpen(false)}>
          No
        </button>
      </div>
    </form>
  );
}

const BANDS = ["#2f5d8a", "#7fa6c4", "#c9d8de", "#f4ecd6", "#ecc98b", "#d08a3e"];

/** The board on its table: the map of its heights, the rows of the first pass, what stays uncut. */
function BoardView({ view, tab, others }: { view: BenchView; tab: Tab; others: BenchLine[] }) {
  const { unit } = useUnit();
  const box = useRef<HTMLDivElement>(null),
    [room, setRoom] = useState<XY>([0, 0]),
    [layer, setLayer] = useState(0),
    [whole, setWhole] = useState(false),
    [grid, setGrid] = useState(false);
  useEffect(() => {
    const el = box.current!;
    const w = new ResizeObserver(() => setRoom([el.clientWidth, el.clientHeight]));
    w.observe(el);
    return () => w.disconnect();
  }, []);
  const b = view.bench.board,
    m = view.machine,
    flat = view.flatness,
    over = view.bench.how.overrun + view.bench.how.cutter * 0.6;
  // several boards lie on the numbered grid of the table; one alone where it is said to lie
  const onGrid = others.length > 0 && m !== null,
    pitch = view.bench.pitch,
    columns = Math.max(1, Math.floor((m?.width ?? b.width) / pitch + 1e-6));
  const corner = (square: number): XY => [
    ((square - 1) % columns) * pitch,
    Math.floor((square - 1) / columns) * pitch,
  ];
  const [ox, oy] = onGrid ? corner(view.bench.square ?? 1) : [b.x, b.y];
  const area: [number, number, number, number] =
    (whole || onGrid) && m
      ? [-ox, -oy, m.width - ox, m.height - oy]
      : [-over, -over, b.width + over, b.height + over];
  const pad = 34,
    k = Math.max(
      0.01,
      Math.min((room[0] - 2 * pad) / (area[2] - area[0]), (room[1] - 2 * pad - 26) / (area[3] - area[1])),
    );
  const W = (area[2] - area[0]) * k,
    H = (area[3] - area[1]) * k,
    px = (v: number) => v / k;
  const map = useMemo(() => flat && mapImage(flat.z), [flat]);
  const shown = view.layers[Math.min(layer, view.layers.length - 1)],
    step = view.bench.pitch,
    [nx, ny] = view.squares;
  const quiet = tab === "flat" || tab === "ledger";
  return (
    <div ref={box} className="relative min-h-0 overflow-hidden">
      <div className="absolute left-3 top-2 z-10 flex flex-wrap items-center gap-1.5 text-small">
        {view.layers.length > 1 &&
          !quiet &&
          view.layers.map((l, i) => (
            <button
              key={l.name}
              className={`${i === Math.min(layer, view.layers.length - 1) ? "key-strong" : "key"} !py-0`}
              aria-pressed={i === layer}
              onClick={() => setLayer(i)}
            >
              {l.name.replace(/ of \d+/, "")}
            </button>
          ))}
        {m && (
          <button className="key !py-0" aria-pressed={whole} onClick={() => setWhole(!whole)}>
            {whole ? "Board" : "Whole table"}
          </button>
        )}
        <button
          className={`${grid ? "key-strong" : "key"} !py-0`}
          aria-pressed={grid}
          onClick={() => setGrid(!grid)}
        >
          Numbered grid
        </button>
      </div>
      <svg
        className="absolute"
        style={{ left: (room[0] - W) / 2, top: 22 + (room[1] - H) / 2 - 6 }}
        width={W}
        height={H}
        viewBox={`0 0 ${W} ${H}`}
        role="img"
        data-testid="board-view"
        aria-label={`${b.name}, ${bare(b.width, unit)} by ${length(b.height, unit)}${flat ? `, heights from ${bare(flat.low.z, unit)} to ${length(flat.high.z, unit)}` : ""}${view.uncut.length ? `, ${view.uncut.length} places stay uncut` : ""}`}
      >
        <defs>
          <pattern
            id="uncut"
            width="8"
            height="8"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <path d="M0 0V8" stroke="#a92f22" strokeWidth="2.4" />
          </pattern>
          <pattern
            id="dead"
            width="9"
            height="9"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(-45)"
          >
            <path d="M0 0V9" stroke="#625d53" strokeWidth="1.4" />
          </pattern>
        </defs>
        <g transform={`translate(${-area[0] * k} ${area[3] * k}) scale(${k} ${-k})`}>
          {m && (
            <rect
              x={-ox}
              y={-oy}
              width={m.width}
              height={m.height}
              fill="#e2d8c4"
              stroke="#21262a"
              strokeWidth={px(1.2)}
            />
          )}
          {m?.dead_areas.map((d, i) => (
            <rect
              key={i}
              x={d[0] - ox}
              y={d[1] - oy}
              width={d[2] - d[0]}
              height={d[3] - d[1]}
              fill="url(#dead)"
              stroke="#625d53"
              strokeWidth={px(0.8)}
            />
          ))}
          <rect width={b.width} height={b.height} fill="#f0e4c8" />
          {map && (
            <image
              href={map}
              x={0}
              y={0}
              width={b.width}
              height={b.height}
              preserveAspectRatio="none"
              opacity={tab === "flat" ? 1 : 0.55}
              style={{ imageRendering: "pixelated" }}
            />
          )}
          {onGrid &&
            others.map((o) => {
              const [cx, cy] = corner(o.square ?? 1);
              return (
                <rect
                  key={o.id}
                  x={cx - ox}
                  y={cy - oy}
                  width={o.width}
                  height={o.height}
                  fill="#f0e4c8"
                  stroke="#21262a"
                  strokeWidth={px(1.4)}
                />
              );
            })}
          {onGrid && m && (
            <g stroke="#21262a" strokeWidth={px(0.6)} opacity={0.6}>
              {Array.from({ length: columns + 1 }, (_, i) => (
                <path
                  key={`X${i}`}
                  d={`M${i * pitch - ox} ${-oy}V${Math.floor(m.height / pitch) * pitch - oy}`}
                />
              ))}
              {Array.from({ length: Math.floor(m.height / pitch) + 1 }, (_, i) => (
                <path key={`Y${i}`} d={`M${-ox} ${i * pitch - oy}H${columns * pitch - ox}`} />
              ))}
            </g>
          )}
          {grid && !onGrid && (
            <g stroke="#21262a" strokeWidth={px(0.6)} opacity={0.8}>
              {Array.from({ length: nx + 1 }, (_, i) => (
                <path key={`x${i}`} d={`M${i * step} 0V${ny * step}`} />
              ))}
              {Array.from({ length: ny + 1 }, (_, i) => (
                <path key={`y${i}`} d={`M0 ${i * step}H${nx * step}`} />
              ))}
            </g>
          )}
          {!quiet &&
            shown?.runs.map((r, i) => (
              <path key={i} d={r.d} fill="none" stroke="#1c4e49" strokeWidth={px(1.1)} />
            ))}
          {!quiet &&
            shown?.runs
              .slice(0, 60)
              .map((r, i) => (
                <circle
                  key={i}
                  cx={r.start[0]}
                  cy={r.start[1]}
                  r={px(r.outside ? 3.6 : 3)}
                  fill={r.outside ? "#1c4e49" : "#fffdf8"}
                  stroke="#1c4e49"
                  strokeWidth={px(1.4)}
                />
              ))}
          {b.dead.map((d, i) => (
            <rect
              key={i}
              x={d.x0}
              y={d.y0}
              width={d.x1 - d.x0}
              height={d.y1 - d.y0}
              fill="url(#dead)"
              stroke="#21262a"
              strokeWidth={px(1)}
            />
          ))}
          {view.uncut.map((u, i) => (
            <polygon
              key={i}
              points={u.map((p) => p.join(",")).join(" ")}
              fill="url(#uncut)"
              stroke="#a92f22"
              strokeWidth={px(1)}
            />
          ))}
          <rect width={b.width} height={b.height} fill="none" stroke="#21262a" strokeWidth={px(2)} />
          {view.shifts.length > 1 &&
            view.shifts.slice(1).map((s) => (
              <g key={s.number} stroke="#a92f22" strokeWidth={px(1.4)} strokeDasharray={`${px(8)} ${px(4)}`}>
                <path d={`M${s.start} ${-px(8)}V${b.height + px(8)}`} />
                <path d={`M${s.start + view.bench.overlap} ${-px(8)}V${b.height + px(8)}`} />
              </g>
            ))}
          <g stroke="#a92f22" strokeWidth={px(1.8)} fill="none">
            <circle r={px(6)} />
            <path d={`M${-px(11)} 0H${px(11)}M0 ${-px(11)}V${px(11)}`} />
          </g>
        </g>
        {onGrid &&
          m &&
          Array.from({ length: Math.min(400, columns * Math.floor(m.height / pitch)) }, (_, i) => (
            <text
              key={i}
              x={((i % columns) * pitch + 6 - ox - area[0]) * k + 2}
              y={(area[3] + oy - Math.floor(i / columns) * pitch - 6) * k - 2}
              className="num"
              fontSize={Math.min(12, pitch * k * 0.3)}
              fill="#21262a"
            >
              {i + 1}
            </text>
          ))}
        {onGrid &&
          others.map((o) => {
            const [cx, cy] = corner(o.square ?? 1);
            return (
              <text
                key={o.id}
                x={(cx + o.width / 2 - ox - area[0]) * k}
                y={(area[3] + oy - cy - o.height / 2) * k + 4}
                textAnchor="middle"
                fontSize={13}
                fontWeight={600}
              >
                {o.name}
              </text>
            );
          })}
        {grid &&
          !onGrid &&
          Array.from({ length: Math.min(nx * ny, 400) }, (_, i) => (
            <text
              key={i}
              x={((i % nx) * step + 6 - area[0]) * k + 3}
              y={(area[3] - Math.floor(i / nx) * step - 6) * k - 3}
              className="num"
              fontSize={Math.min(13, step * k * 0.3)}
              fill="#21262a"
            >
              {i + 1}
            </text>
          ))}
        {flat &&
          tab === "flat" &&
          view.bench.readings.length <= 120 &&
          view.bench.readings.map((r, i) => (
            <text
              key={i}
              x={(r.x - area[0]) * k}
              y={(area[3] - r.y) * k + 4}
              textAnchor="middle"
              fontSize={12}
              className="num"
              fill="#21262a"
              stroke="#fffdf8"
              strokeWidth={3}
              paintOrder="stroke"
            >
              {bare(r.z, unit, unit === "mm" ? 2 : 3)}
            </text>
          ))}
        {flat &&
          (tab === "flat" ? (["high", "low"] as const) : (["high"] as const)).map((what) => {
            const r = flat[what],
              x = (r.x - area[0]) * k,
              y = (area[3] - r.y) * k;
            return (
              <g key={what}>
                <path
                  d={what === "high" ? `M${x} ${y - 20}l8 -13h-16z` : `M${x} ${y + 20}l8 13h-16z`}
                  fill="#21262a"
                />
                <text
                  x={x + 12}
                  y={what === "high" ? y - 22 : y + 32}
                  fontSize={13}
                  fontWeight={600}
                  stroke="#fffdf8"
                  strokeWidth={3.5}
                  paintOrder="stroke"
                >
                  {what === "high"
                    ? tab === "flat"
                      ? "high spot"
                      : "high spot: touch off here"
                    : "low spot"}
                </text>
              </g>
            );
          })}
      </svg>
      <p className="absolute bottom-1.5 left-0 right-0 flex flex-wrap justify-center gap-x-5 text-small text-quiet">
        <span className="num">
          {length(b.width, unit, 0)} x {length(b.height, unit, 0)}
        </span>
        {flat && tab === "flat" && (
          <span className="flex items-center gap-1">
            <span>low</span>
            {BANDS.map((c) => (
              <i key={c} className="inline-block h-3 w-5 border border-line" style={{ background: c }} />
            ))}
            <span>high</span>
          </span>
        )}
        {!quiet && (
          <>
            <span>● goes down clear of the work</span>
            {view.layers.some((l) => l.runs.some((r) => !r.outside)) && <span>○ ramps in</span>}
          </>
        )}
        {view.uncut.length > 0 && <span className="text-stop">hatched red: stays uncut</span>}
        {view.shifts.length > 1 && <span>{view.shifts.length} shifts, overlap between the dashed lines</span>}
      </p>
    </div>
  );
}

/** Heights in six bands as a picture one pixel a cell, y up. */
function mapImage(z: number[][]): string {
  const rows = z.length,
    cols = z[0].length,
    all = z.flat(),
    low = Math.min(...all),
    high = Math.max(...all),
    c = document.createElement("canvas"),
    s = 4;
  c.width = cols * s;
  c.height = rows * s;
  const g = c.getContext("2d")!;
  const at = (x: number, y: number) => {
    const i = Math.min(rows - 1.001, Math.max(0, y)),
      j = Math.min(cols - 1.001, Math.max(0, x)),
      a = Math.floor(i),
      b = Math.floor(j),
      u = i - a,
      v = j - b;
    return (
      (z[a][b] * (1 - v) + z[a][b + 1] * v) * (1 - u) + (z[a + 1][b] * (1 - v) + z[a + 1][b + 1] * v) * u
    );
  };
  for (let y = 0; y < rows * s; y++)
    for (let x = 0; x < cols * s; x++) {
      const t = high > low ? (at(x / s - 0.4, y / s - 0.4) - low) / (high - low) : 1;
      g.fillStyle = BANDS[Math.min(5, Math.floor(t * 6))];
      g.fillRect(x, y, 1, 1);
    }
  return c.toDataURL();
}

const percent = (v: number) => `${Math.round(v * 100)} %`;

/** Time against ridge height, a point a step-over, with the line that is not felt. */
function TradeOff({ view, onPick }: { view: BenchView; onPick: (share: number) => void }) {
  const { unit } = useUnit();
  const all = view.choices,
    now = view.bench.how.step_over,
    limit = view.bench.ridge_limit;
  const W = 520,
    H = 210,
    L = 54,
    B = 34,
    most = Math.max(...all.map((c) => c.seconds)) * 1.06,
    top = Math.max(limit * 1.4, ...all.map((c) => c.ridge)) * 1.08;
  const X = (s: number) => L + (s / most) * (W - L - 14),
    Y = (r: number) => H - B - (r / top) * (H - B - 12);
  const ticks = (v: number, n: number) => Array.from({ length: n }, (_, i) => ((i + 1) / n) * v);
  return (
    <section
      className="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] gap-3 overflow-hidden border-t-2 border-ink bg-paper px-3 py-2"
      aria-label="Step-over against time and ridges"
    >
      <figure className="min-w-0">
        <figcaption className="text-small">
          <b className="font-semibold">What a finer step-over costs</b>{" "}
          <span className="label">
            one pass, spindle {view.bench.tilt_across}° across and {view.bench.tilt_along}° along the rows
          </span>
        </figcaption>
        <svg
          viewBox={`0 0 ${W} ${H}`}
          className="h-[232px] w-full"
          role="img"
          aria-label={`Trade-off: ${all.map((c) => `${percent(c.share)} takes ${clock(c.seconds)} and leaves ${c.ridge.toFixed(3)} mm`).join("; ")}`}
          data-testid="trade-off"
        >
          <rect x={L} y={Y(limit)} width={W - L - 14} height={H - B - Y(limit)} fill="#d5e3de" />
          <path d={`M${L} ${Y(limit)}H${W - 14}`} stroke="#1c4e49" strokeDasharray="6 4" />
          <text x={W - 16} y={Y(limit) - 4} textAnchor="end" fontSize="12" fill="#1c4e49">
            not felt below {bare(limit, unit, unit === "mm" ? 3 : 4)}
          </text>
          {ticks(most / 1.06, 4).map((s) => (
            <g key={s}>
              <path d={`M${X(s)} ${H - B}v4`} stroke="#21262a" />
              <text x={X(s)} y={H - B + 16} fontSize="11.5" textAnchor="middle" className="num">
                {clock(s)}
              </text>
            </g>
          ))}
          {ticks(top / 1.08, 3).map((r) => (
            <g key={r}>
              <path d={`M${L - 4} ${Y(r)}h4`} stroke="#21262a" />
              <text x={L - 7} y={Y(r) + 4} fontSize="11.5" textAnchor="end" className="num">
                {bare(r, unit, unit === "mm" ? 3 : 4)}
              </text>
            </g>
          ))}
          <path d={`M${L} 8V${H - B}H${W - 10}`} fill="none" stroke="#21262a" strokeWidth="1.4" />
          <text x={W - 12} y={H - 4} fontSize="12" textAnchor="end">
            time a pass
          </text>
          <text x={L + 4} y={14} fontSize="12">
            ridge, {unit}
          </text>
          <polyline
            points={all.map((c) => `${X(c.seconds)},${Y(c.ridge)}`).join(" ")}
            fill="none"
            stroke="#a99c83"
            strokeWidth="1.5"
          />
          {all.map((c) => (
            <g key={c.share} className="cursor-pointer" onClick={() => onPick(c.share)}>
              {c.share === view.worth ? (
                <rect
                  x={X(c.seconds) - 6}
                  y={Y(c.ridge) - 6}
                  width="12"
                  height="12"
                  transform={`rotate(45 ${X(c.seconds)} ${Y(c.ridge)})`}
                  fill="#fffdf8"
                  stroke="#1c4e49"
                  strokeWidth="2"
                />
              ) : null}
              <circle
                cx={X(c.seconds)}
                cy={Y(c.ridge)}
                r={Math.abs(c.share - now) < 1e-6 ? 6 : 3.8}
                fill={Math.abs(c.share - now) < 1e-6 ? "#a92f22" : "#21262a"}
              />
              <text
                x={X(c.seconds) + 7}
                y={Y(c.ridge) - 6}
                fontSize="11.5"
                className="num"
                fontWeight={Math.abs(c.share - now) < 1e-6 ? 600 : 400}
              >
                {percent(c.share)}
              </text>
            </g>
          ))}
        </svg>
      </figure>
      <div className="min-h-0 overflow-auto">
        <table className="w-full text-small">
          <thead>
            <tr className="label text-right">
              <th className="text-left font-normal">step-over</th>
              <th className="font-normal">rows</th>
              <th className="font-normal">apart</th>
              <th className="font-normal">time</th>
              <th className="font-normal">ridge</th>
            </tr>
          </thead>
          <tbody>
            {all.map((c: StepOver) => (
              <tr
                key={c.share}
                className={`num cursor-pointer text-right hover:bg-accent-soft ${Math.abs(c.share - now) < 1e-6 ? "bg-accent-soft font-medium" : ""}`}
                onClick={() => onPick(c.share)}
              >
                <td className="text-left">
                  <button className="underline decoration-dotted" aria-label={`Take ${percent(c.share)}`}>
                    {percent(c.share)}
                  </button>
                  {c.share === view.worth ? (
                    <span className="font-sans text-fine text-accent"> quickest unfelt</span>
                  ) : Math.abs(c.share - now) < 1e-6 ? (
                    <span className="font-sans text-fine"> taken</span>
                  ) : (
                    ""
                  )}
                </td>
                <td>{c.rows}</td>
                <td>{bare(c.spacing, unit, unit === "mm" ? 1 : 2)}</td>
                <td>{clock(c.seconds)}</td>
                <td>{bare(c.ridge, unit, unit === "mm" ? 3 : 4)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

type Tabs = { view: BenchView; put: (f: Partial<Bench>) => void };
const Facts = ({ rows }: { rows: [ReactNode, ReactNode][] }) => (
  <dl className="grid grid-cols-[1fr_auto] gap-x-3 text-small">
    {rows.map(([k, v], i) => (
      <div key={i} className="contents">
        <dt>{k}</dt>
        <dd className="num text-right">{v}</dd>
      </div>
    ))}
  </dl>
);

function CutTab({
  view,
  put,
  list,
  others,
  setOthers,
}: Tabs & { list: BenchLine[]; others: string[]; setOthers: (o: string[]) => void }) {
  const { unit } = useUnit();
  const b = view.bench.board,
    s = view.bench.how,
    library = useLibrary().data,
    how = (f: Partial<How>) => put({ how: { ...s, ...f } }),
    board = (f: Partial<Board>) => put({ board: { ...b, ...f } });
  const cutters =
    library?.cutter
      .filter((c) => ["surfacing", "straight", "up-cut", "down-cut", "single-flute"].includes(c.kind))
      .sort((p, q) => q.diameter - p.diameter) ?? [];
  const take = (id: string) => {
    const c = cutters.find((k) => k.id === id);
    if (!c) return;
    const f = c.feeds.wood ?? Object.values(c.feeds)[0];
    how({
      cutter_id: c.id,
      cutter: c.diameter,
      cutter_name: c.name,
      number: c.number,
      ...(f ? { feed: f.feed, plunge: f.plunge, rpm: f.rpm } : {}),
    });
  };
  const more = list.filter((o) => o.id !== view.bench.id && o.kind === "board" && b.kind === "board");
  return (
    <>
      <h2 className="text-figure font-semibold">{b.name}</h2>
      <p className="leading-[1.65]">
        <LengthToken
          label="length along X"
          mm={b.width}
          digits={unit === "mm" ? 0 : 2}
          onCommit={(width) => board({ width })}
        />{" "}
        by{" "}
        <LengthToken
          label="width along Y"
          mm={b.height}
          digits={unit === "mm" ? 0 : 2}
          onCommit={(height) => board({ height })}
        />
        , at{" "}
        <LengthToken
          label="X on the table"
          mm={b.x}
          digits={unit === "mm" ? 0 : 2}
          onCommit={(x) => board({ x })}
        />
        ,{" "}
        <LengthToken
          label="Y on the table"
          mm={b.y}
          digits={unit === "mm" ? 0 : 2}
          onCommit={(y) => board({ y })}
        />{" "}
        on the table; <b className="num font-medium">{length(view.state.thickness, unit)}</b> thick now.
        {b.kind === "board" && (
          <>
            {" "}
            Grain{" "}
            <Choice
              label="grain"
              value={b.grain ?? "none"}
              options={[
                ["x", "along X"],
                ["y", "along Y"],
                ["none", "none"],
              ]}
              onPick={(v) => board({ grain: v === "none" ? null : v })}
            />
            .
          </>
        )}
      </p>
      <section
        className="mt-2 border border-line bg-paper px-2.5 py-1.5 leading-[1.65]"
        aria-label="How it is surfaced"
      >
        <p>
          <Choice
            label="pattern"
            value={s.pattern}
            options={[
              ["rows", "Rows"],
              ["rows+perimeter", "Perimeter first, then rows"],
              ["spiral", "A spiral"],
            ]}
            onPick={(pattern) => how({ pattern })}
          />
          {s.pattern === "spiral" ? (
            <>
              {" "}
              <Choice
                label="spiral"
                value={s.inwards ? "in" : "out"}
                options={[
                  ["in", "from the outside in"],
                  ["out", "from the middle out"],
                ]}
                onPick={(v) => how({ inwards: v === "in" })}
              />
            </>
          ) : (
            <>
              {" "}
              <Choice
                label="along"
                value={s.along}
                options={[
                  ["longer", "along the longer side"],
                  ["x", "along X"],
                  ["y", "along Y"],
                  ["grain", "along the grain"],
                ]}
                onPick={(along) => how({ along })}
              />
            </>
          )}
          ,{" "}
          <Choice
            label="ways"
            value={s.ways}
            options={[
              ["both ways", "both ways"],
              ["climb", "climb only"],
              ["conventional", "conventional only"],
            ]}
            onPick={(ways) => how({ ways })}
            why="climb only runs back in air: slower, cleaner edges"
          />
          , with{" "}
          <Choice
            wide
            label="cutter"
            value={cutters.find((c) => c.name === s.cutter_name)?.id ?? ""}
            options={[
              ...(cutters.some((c) => c.name === s.cutter_name)
                ? []
                : [["", s.cutter_name] as [string, string]]),
              ...cutters.map((c): [string, string] => [c.id, c.name]),
            ]}
            onPick={take}
          />
          ,{" "}
          <LengthToken
            label="cutter diameter"
            mm={s.cutter}
            onCommit={(cutter) => how({ cutter, cutter_name: "surfacing cutter" })}
          />{" "}
          across, step-over{" "}
          <NumberToken
            label="step-over"
            value={s.step_over}
            scale={100}
            unit=" %"
            least={1}
            onCommit={(v) => how({ step_over: Math.min(0.95, v) })}
          />
          ,{" "}
          <NumberToken
            label="passes"
            value={s.passes}
            least={1}
            onCommit={(v) => how({ passes: Math.round(v) })}
          />{" "}
          pass{s.passes === 1 ? "" : "es"} of{" "}
          <LengthToken label="depth a pass" mm={s.depth} onCommit={(depth) => how({ depth })} />,{" "}
          {s.finish_depth ? (
            <>
              then a fine one of{" "}
              <LengthToken
                label="depth of the fine pass"
                mm={s.finish_depth}
                onCommit={(finish_depth) => how({ finish_depth })}
                onHouse={() => how({ finish_depth: 0 })}
              />{" "}
              at{" "}
              <NumberToken
                label="step-over of the fine pass"
                value={s.finish_step_over}
                scale={100}
                unit=" %"
                least={1}
                onCommit={(v) => how({ finish_step_over: Math.min(0.95, v) })}
              />
            </>
          ) : (
            <button className="border-b border-dotted border-ink" onClick={() => how({ finish_depth: 0.1 })}>
              no fine pass
            </button>
          )}
          . The edge overruns{" "}
          <LengthToken
            label="overrun"
            mm={s.overrun}
            onCommit={(overrun) => how({ overrun })}
            why="half an inch a side is usual"
          />
          . Z 0 is touched off on the{" "}
          <Choice
            label="touch off"
            value={s.touch}
            options={[
              ["high spot", "high spot"],
              ["middle", "middle"],
              ["lower left corner", "lower left corner"],
            ]}
            onPick={(touch) => how({ touch })}
          />
          {s.start > 0 && (
            <>
              ;{" "}
              <LengthToken
                label="already taken off"
                mm={s.start}
                onCommit={(start) => how({ start })}
                onHouse={() => how({ start: 0 })}
              />{" "}
              came off since
            </>
          )}
          .
        </p>
        <p className="text-small text-quiet">
          <NumberToken
            label="spindle speed"
            value={s.rpm}
            unit=" rpm"
            least={1}
            onCommit={(rpm) => how({ rpm })}
          />{" "}
          &nbsp;{" "}
          <QuantityToken
            of="feed"
            label="feed"
            value={s.feed}
            least={0.001}
            onCommit={(feed) => how({ feed })}
          />{" "}
          &nbsp;{" "}
          {view.flatness && s.pattern !== "spiral" && (
            <button
              className="underline decoration-dotted"
              aria-pressed={s.only_touched}
              onClick={() => how({ only_touched: !s.only_touched })}
            >
              {s.only_touched ? "only where it touches" : "everywhere, air too"}
            </button>
          )}
        </p>
      </section>
      <table className="mt-2 w-full text-small" aria-label="Passes">
        <thead>
          <tr className="label text-right">
            <th className="text-left font-normal">pass</th>
            <th className="font-normal">Z</th>
            <th className="font-normal">rows</th>
            <th className="font-normal">touches</th>
            <th className="font-normal">time</th>
          </tr>
        </thead>
        <tbody>
          {view.layers.map((l) => (
            <tr key={l.name} className="num text-right">
              <td className="text-left font-sans">{l.name.replace(/^pass /, "")}</td>
              <td>-{bare(l.depth, unit, unit === "mm" ? 2 : 3)}</td>
              <td>{l.rows}</td>
              <td>{l.touched === null ? "" : percent(l.touched)}</td>
              <td>{clock(l.seconds)}</td>
            </tr>
          ))}
          {view.skipped.map((t) => (
            <tr key={t}>
              <td colSpan={5} className="label">
                {t}
              </td>
            </tr>
          ))}
          <tr className="num border-t border-line text-right font-medium">
            <td className="text-left font-sans">in all</td>
            <td>-{bare(view.deepest, unit, unit === "mm" ? 2 : 3)}</td>
            <td />
            <td>{metres(view.cut_length, unit)}</td>
            <td>{clock(view.seconds)}</td>
          </tr>
        </tbody>
      </table>
      <details className="mt-2 text-small" open={b.dead.length > 0}>
        <summary className="cursor-pointer">
          Keep out of {b.dead.length ? `${b.dead.length} place${b.dead.length > 1 ? "s" : ""}` : "nothing"}
        </summary>
        {b.dead.map((d, i) => (
          <KeepOutLine
            key={i}
            place={i + 1}
            at={d}
            onChange={(next) => board({ dead: b.dead.map((o, n) => (n === i ? next : o)) })}
            onRemove={() => board({ dead: b.dead.filter((_, n) => n !== i) })}
          />
        ))}
        <button
          className="key !py-0"
          onClick={() =>
            board({
              dead: [
                ...b.dead,
                { x0: b.width / 2 - 30, y0: 0, x1: b.width / 2 + 30, y1: 40, height: 25, margin: 3 },
              ],
            })
          }
        >
          + a clamp or stop
        </button>
      </details>
      {view.faces && <Faces view={view} put={put} />}
      {more.length > 0 && (
        <fieldset className="mt-2 text-small">
          <legend className="label">In one program, on the numbered grid</legend>
          <p>
            {b.name} on square{" "}
            <NumberToken
              label={`square of ${b.name}`}
              value={view.bench.square ?? 1}
              least={1}
              onCommit={(v) => put({ square: Math.round(v) })}
            />
          </p>
          {more.map((o) => (
            <label key={o.id} className="flex items-baseline gap-2">
              <input
                type="checkbox"
                checked={others.includes(o.id)}
                onChange={(e) =>
                  setOthers(e.target.checked ? [...others, o.id] : others.filter((x) => x !== o.id))
                }
              />
              {o.name}
              {o.square ? (
                <span className="label">on square {o.square}</span>
              ) : (
                <span className="text-look">has no square yet</span>
              )}
            </label>
          ))}
        </fieldset>
      )}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Save
          address={`/surfacing/${view.bench.id}/program?others=${others.join(",")}`}
          words={
            others.length
              ? `Program for ${others.length + 1} boards`
              : view.shifts.length > 1
                ? `Programs for ${view.shifts.length} shifts`
                : "Program"
          }
          strong
        />
        <Save address={`/surfacing/${view.bench.id}/sheet.pdf`} words="Sheet to print" />
        {b.kind === "spoilboard" && (
          <Save address={`/surfacing/${view.bench.id}/grid?depth=0.3`} words="Grid to engrave" />
        )}
      </div>
      {b.kind === "spoilboard" && (
        <p className="label mt-1">
          Numbered squares of{" "}
          <LengthToken
            label="pitch of the grid"
            mm={view.bench.pitch}
            digits={unit === "mm" ? 0 : 2}
            onCommit={(pitch) => put({ pitch })}
          />
          : V bit or sprung pen.
        </p>
      )}
    </>
  );
}

function Faces({ view, put }: Tabs) {
  const { unit } = useUnit();
  const f = view.faces!;
  return (
    <section className="mt-2 text-small" aria-label="Faces">
      <p>
        Wanted thickness{" "}
        <LengthToken
          label="wanted thickness"
          mm={view.bench.wanted ?? view.state.thickness - 2 * view.bench.how.depth * view.bench.how.passes}
          house={view.bench.wanted === null}
          onCommit={(wanted) => put({ wanted })}
          onHouse={() => put({ wanted: null })}
        />
        .
      </p>
      {f.wrong !== undefined ? (
        <p role="alert" className="text-stop">
          {f.wrong}
        </p>
      ) : (
        <>
          <Facts
            rows={[
              ["first face takes", length(f.first, unit)],
              ["left after it", length(f.after_first, unit)],
              ["second face takes", length(f.second, unit)],
              ["thickness then", length(f.after_second, unit)],
            ]}
          />
          <p className="label">{f.says.map((t) => t[0].toUpperCase() + t.slice(1)).join(". ")}.</p>
        </>
      )}
    </section>
  );
}

/** A download that says why where it is refused. */
function Save({ address, words, strong }: { address: string; words: string; strong?: boolean }) {
  const [wrong, setWrong] = useState("");
  const get = async () => {
    const r = await fetch(`/api${address}`);
    if (!r.ok) {
      setWrong((await r.json().catch(() => ({ detail: `the server answered ${r.status}` }))).detail);
      return;
    }
    setWrong("");
    const name = decodeURIComponent(
        /filename\*=UTF-8''([^;]+)/.exec(r.headers.get("content-disposition") ?? "")?.[1] ?? "file",
      ),
      url = URL.createObjectURL(await r.blob()),
      a = document.createElement("a");
    a.href = url;
    a.download = name;
    a.click();
    URL.revokeObjectURL(url);
  };
  return (
    <>
      <button className={strong ? "key-strong" : "key"} onClick={get}>
        {words}
      </button>
      {wrong && (
        <p role="alert" className="basis-full text-small text-stop">
          {wrong}
        </p>
      )}
    </>
  );
}

function FlatTab({ view, send, put }: Tabs & { send: (path: string, body: unknown) => void }) {
  const { unit } = useUnit();
  const f = view.flatness,
    [text, setText] = useState(""),
    [columns, setColumns] = useState(9),
    [rows, setRows] = useState(5),
    n = view.bench.readings.length;
  const tilt = (v: number, long: number, a: string, b: string) =>
    Math.abs(v) < 0.005
      ? "level"
      : `${length(Math.abs(v), unit, unit === "mm" ? 2 : 3)} higher at the ${v > 0 ? b : a} (${((Math.abs(v) / long) * 1000).toFixed(2)} mm/m)`;
  const droop = (v: number) =>
    Math.abs(v) < 0.005
      ? "straight"
      : `${length(Math.abs(v), unit, unit === "mm" ? 2 : 3)} ${v > 0 ? "hollow" : "crowned"} in the middle`;
  return (
    <>
      <h2 className="text-figure font-semibold">How flat it is</h2>
      {f ? (
        <>
          <p className="label">
            {n} readings{view.bench.simulated ? ", of the simulated probe" : ""}.
          </p>
          <Facts
            rows={[
              [
                "highest less lowest",
                <b key="r" className="text-head font-medium">
                  {length(f.range, unit, unit === "mm" ? 2 : 3)}
                </b>,
              ],
              [
                "least depth that cleans everything",
                <b key="l" className="text-head font-medium">
                  {length(f.least, unit, unit === "mm" ? 2 : 3)}
                </b>,
              ],
            ]}
          />
          <dl className="mt-1 text-small">
            <dt className="label">tilt</dt>
            <dd>
              {tilt(f.tilt[0], view.bench.board.width, "left", "right")};{" "}
              {tilt(f.tilt[1], view.bench.board.height, "front", "back")}
            </dd>
            <dt className="label">droop</dt>
            <dd>
              along X {droop(f.droop[0])}; along Y {droop(f.droop[1])}
            </dd>
            <dt className="label">what neither explains</dt>
            <dd className="num">{length(f.rest, unit, unit === "mm" ? 3 : 4)} rms</dd>
          </dl>
          <p className="mt-1">
            <button
              className="key !py-0.5"
              onClick={() => {
                const s = view.bench.how,
                  need = Math.max(0.05, f.least - s.start - s.finish_depth);
                const passes = Math.max(1, Math.ceil(need / Math.max(s.depth, 0.05) - 1e-9));
                put({ how: { ...s, passes, depth: Math.round((need / passes) * 100 + 0.499) / 100 } });
              }}
            >
              Take just that
            </button>{" "}
            <button className="key !py-0.5" onClick={() => put({ readings: [], simulated: false })}>
              Forget the readings
            </button>
          </p>
        </>
      ) : (
        <p className="mt-1">
          No readings yet. Zero on a high or middle spot, then read heights over the face with a probe, or
          with straight-edge and feeler.
        </p>
      )}
      <section className="mt-3 border-t border-line pt-2">
        <h3 className="text-head font-semibold">Probe it</h3>
        <p>
          A walk of{" "}
          <NumberToken
            label="touches along X"
            value={columns}
            least={2}
            onCommit={(v) => setColumns(Math.min(40, Math.round(v)))}
          />{" "}
          by{" "}
          <NumberToken
            label="touches along Y"
            value={rows}
            least={2}
            onCommit={(v) => setRows(Math.min(40, Math.round(v)))}
          />{" "}
          touches.{" "}
          <button
            className="key !py-0.5"
            onClick={() => send("/readings", { columns, rows, seed: Math.floor(Math.random() * 1e6) })}
          >
            Simulated probe
          </button>
        </p>
      </section>
      <section className="mt-3 border-t border-line pt-2">
        <h3 className="text-head font-semibold">Type or paste</h3>
        <textarea
          className="field h-24 w-full resize-y"
          value={text}
          onChange={(e) => setText(e.target.value)}
          aria-label="Readings"
          placeholder={"X Y height, a line each\n0 0 0\n1200 600 -0.35"}
          spellCheck={false}
        />
        <button
          className="key !py-0.5"
          disabled={!text.trim()}
          onClick={() => send("/readings", { text, inch: unit === "in" })}
        >
          Take these readings, in {unit}
        </button>
      </section>
    </>
  );
}

type Tram = { tilt: number; per_100: number; shim: number; says: string };
function RidgeTab({ view, put }: Tabs) {
  const { unit } = useUnit();
  const b = view.bench,
    x =
      view.bench.how.along === "y" || (view.bench.how.along === "longer" && b.board.width < b.board.height)
        ? "y"
        : "x";
  const [height, setHeight] = useState(0.05),
    [high, setHigh] = useState<"left" | "right" | "front" | "back">(x === "x" ? "back" : "right"),
    [span, setSpan] = useState(100);
  const apart =
    view.choices.find((c) => Math.abs(c.share - b.how.step_over) < 1e-6)?.spacing ??
    b.how.cutter * b.how.step_over;
  const found = useQuery({
    queryKey: ["tram", height, apart, high, x, span],
    retry: false,
    queryFn: () => post<Tram>("/tram", { height, spacing: apart, high, along: x, span }),
  });
  return (
    <>
      <h2 className="text-figure font-semibold">Ridges and tram</h2>
      <p className="leading-[1.65]">
        The spindle leans{" "}
        <NumberToken
          label="tilt across the rows"
          value={b.tilt_across}
          digits={3}
          unit="°"
          least={-5}
          onCommit={(tilt_across) => put({ tilt_across })}
        />{" "}
        across the rows and{" "}
        <NumberToken
          label="tilt along the rows"
          value={b.tilt_along}
          digits={3}
          unit="°"
          least={-5}
          onCommit={(tilt_along) => put({ tilt_along })}
        />{" "}
        along them. Ridges up to{" "}
        <LengthToken
          label="ridges not felt"
          mm={b.ridge_limit}
          digits={unit === "mm" ? 3 : 4}
          onCommit={(ridge_limit) => put({ ridge_limit })}
        />{" "}
        are not felt.
      </p>
      {view.worth !== null ? (
        <p>
          Quickest that is not felt: step-over <b className="num">{percent(view.worth)}</b>
          {Math.abs(view.worth - b.how.step_over) > 1e-6 && (
            <>
              {" "}
              <button
                className="key !py-0"
                onClick={() => put({ how: { ...b.how, step_over: view.worth! } })}
              >
                Take it
              </button>
            </>
          )}
          .
        </p>
      ) : (
        <p className="text-look">
          At this tilt every step-over leaves ridges to feel: tram the spindle first.
        </p>
      )}
      <p className="label">
        Tilt across: a step of spacing × tan. Tilt along: each row is dished, which shows far less.
      </p>
      <section className="mt-3 border-t border-line pt-2" aria-label="Tram finder">
        <h3 className="text-head font-semibold">Feel a step between rows?</h3>
        <p className="leading-[1.65]">
          A step of{" "}
          <LengthToken
            label="height of the step"
            mm={height}
            digits={unit === "mm" ? 3 : 4}
            onCommit={setHeight}
          />{" "}
          at rows {length(apart, unit, 1)} apart along {x.toUpperCase()}, every row higher at its{" "}
          <Choice
            label="high side"
            value={high}
            options={
              x === "x"
                ? [
                    ["back", "back"],
                    ["front", "front"],
                  ]
                : [
                    ["right", "right"],
                    ["left", "left"],
                  ]
            }
            onPick={setHigh}
          />{" "}
          side; <LengthToken label="between the mount's screws" mm={span} onCommit={setSpan} /> between the
          mount's screws.
        </p>
        {found.error && (
          <p role="alert" className="text-stop">
            {(found.error as Error).message}
          </p>
        )}
        {found.data && (
          <>
            <Facts
              rows={[
                ["out of square", `${found.data.tilt.toFixed(3)}°`],
                [`over ${length(100, unit, 2)}`, length(found.data.per_100, unit, unit === "mm" ? 3 : 4)],
                ["shim", length(found.data.shim, unit, unit === "mm" ? 3 : 4)],
              ]}
            />
            <p className="mt-1 border-l-4 border-accent pl-2" role="status">
              {inUnit(found.data.says, unit)}.
            </p>
            <button
              className="key mt-1 !py-0.5"
              onClick={() => put({ tilt_across: Math.round(found.data!.tilt * 1000) / 1000 })}
            >
              Reckon with it
            </button>
          </>
        )}
      </section>
    </>
  );
}

const WORD: Record<string, string> = {
  surfaced: "surfaced",
  "through-cut": "through-cuts",
  zero: "Z set anew",
  read: "read",
  replaced: "replaced",
  reversed: "taken back",
};
function LedgerTab({
  view,
  send,
  put,
  onGone,
}: Tabs & { send: (path: string, body: unknown) => void; onGone: () => void }) {
  const { unit } = useUnit();
  const st = view.state,
    b = view.bench.board,
    undone = new Set(view.ledger.map((l) => l.entry.reverses).filter((n) => n !== null));
  const share = Math.min(1, Math.max(st.metres / b.due_metres, st.score / b.due_depth));
  return (
    <>
      <h2 className="text-figure font-semibold">What became of it</h2>
      <Facts
        rows={[
          [
            "thickness left",
            <b key="t" className="text-head font-medium">
              {length(st.thickness, unit)}
            </b>,
          ],
          [
            <>replaced at</>,
            <LengthToken
              key="l"
              label="least thickness"
              mm={b.least}
              onCommit={(least) => put({ board: { ...b, least } })}
            />,
          ],
          ["passes like this still in it", st.passes_left ?? ""],
          ["taken off since Z was set", length(st.since_zero, unit)],
          [
            "wood over the highest screw head",
            b.screw_head === null ? (
              <button
                key="s"
                className="border-b border-dotted border-ink font-sans"
                onClick={() => put({ board: { ...b, screw_head: 8 } })}
              >
                no screws
              </button>
            ) : (
              length(st.cover ?? 0, unit)
            ),
          ],
          [
            "flatness expected",
            st.flat === null ? "not known" : length(st.flat, unit, unit === "mm" ? 2 : 3),
          ],
        ]}
      />
      {b.kind === "spoilboard" && (
        <div className="mt-2">
          <p className="flex justify-between text-small">
            <span>cut into since surfaced</span>
            <span className="num">
              {metres(st.metres * 1000, unit)}, {length(st.score, unit)} deep
            </span>
          </p>
          <div
            className="h-4 border border-ink bg-paper"
            role="meter"
            aria-valuenow={Math.round(share * 100)}
            aria-valuemin={0}
            aria-valuemax={100}
            aria-label="Due for surfacing"
          >
            <div
              className="h-full bg-[repeating-linear-gradient(45deg,#8a5a00,#8a5a00_3px,#d9b56a_3px,#d9b56a_7px)]"
              style={{ width: `${share * 100}%` }}
            />
          </div>
          <p className="label">
            due at {metres(b.due_metres * 1000, unit)} or {length(b.due_depth, unit)} deep
            {st.due ? ": it is due" : ""}
          </p>
        </div>
      )}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <button className="key-strong" onClick={() => send("/ledger", { planned: true })}>
          The passes were cut: book them
        </button>
        <button
          className="key"
          onClick={() => send("/ledger", { entry: { kind: "zero", says: "touched off anew" } })}
        >
          Z was set anew
        </button>
      </div>
      <p className="label mt-1">Booked, the plan goes on where these passes end: take the same again.</p>
      {b.kind === "spoilboard" && (
        <p className="label mt-1">What jobs cut into it comes from their sheets, recorded at Release.</p>
      )}
      <ol className="mt-3" aria-label="Ledger">
        {view.ledger.map((l) => (
          <li
            key={l.number}
            className={`rule flex items-baseline gap-2 py-1 text-small ${undone.has(l.number) ? "text-quiet line-through" : ""}`}
          >
            <span className="label num shrink-0">{l.made.slice(0, 10)}</span>
            <span className="min-w-0 flex-1">
              {WORD[l.entry.kind]}
              {l.entry.says ? `: ${l.entry.says}` : ""}
            </span>
            <span className="num shrink-0">
              {l.entry.kind === "surfaced"
                ? `-${length(l.entry.removed, unit)}`
                : l.entry.kind === "through-cut"
                  ? metres(l.entry.metres * 1000, unit)
                  : l.entry.kind === "reversed"
                    ? `no. ${l.entry.reverses}`
                    : ""}
            </span>
            {l.entry.kind !== "reversed" && l.entry.run === null && !undone.has(l.number) && (
              <button
                className="text-small underline"
                aria-label={`Take back entry ${l.number}`}
                onClick={() => send("/ledger", { entry: { kind: "reversed", reverses: l.number } })}
              >
                take back
              </button>
            )}
          </li>
        ))}
      </ol>
      <p className="mt-2">
        <button
          className="text-small underline decoration-dotted"
          onClick={() => call(`/surfacing/${view.bench.id}`, { method: "DELETE" }).then(onGone)}
        >
          Take it off the bench
        </button>{" "}
        <span className="label">its ledger stays, for when it comes back under the same name</span>
      </p>
    </>
  );
}

const MARK: Record<Snag["severity"], string> = {
  stop: "border-stop text-stop",
  look: "border-look text-look",
  note: "border-line text-quiet",
};
function Said({
  snags,
  view,
  put,
  send,
}: Tabs & { snags: Snag[]; send: (path: string, body: unknown) => void }) {
  const { unit } = useUnit();
  if (!snags.length) return <p className="label mt-3">No snags here.</p>;
  const remedy = (s: Snag) =>
    s.rule === "ledger.start"
      ? ([
          ["Take the ledger's", () => put({ how: { ...view.bench.how, start: view.state.since_zero } })],
          [
            "Touched off anew",
            () => {
              send("/ledger", { entry: { kind: "zero", says: "touched off anew" } });
              put({ how: { ...view.bench.how, start: 0 } });
            },
          ],
        ] as [string, () => void][])
      : s.rule === "surface.air" && !view.bench.how.only_touched && view.bench.how.pattern !== "spiral"
        ? ([["Cut only where it touches", () => put({ how: { ...view.bench.how, only_touched: true } })]] as [
            string,
            () => void,
          ][])
        : [];
  return (
    <section className="mt-3" aria-label="Snags">
      <h3 className="text-head font-semibold">Snags</h3>
      <ul>
        {snags.map((s, i) => (
          <li key={s.rule + i} className="rule py-1 text-small">
            <span className={`mr-1.5 border px-1 text-fine ${MARK[s.severity]}`}>{s.severity}</span>
            {inUnit(s.message, unit)}
            {remedy(s).map(([t, f]) => (
              <button key={t} className="key ml-1.5 !py-0" onClick={f}>
                {t}
              </button>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** One clamp or stop: where it lies, how high it stands and the room it is given. */
function KeepOutLine({
  place,
  at,
  onChange,
  onRemove,
}: {
  place: number;
  at: KeepOut;
  onChange: (next: KeepOut) => void;
  onRemove: () => void;
}) {
  const set = (more: Partial<KeepOut>) => {
    const d = { ...at, ...more };
    onChange({
      ...d,
      x0: Math.min(d.x0, d.x1),
      x1: Math.max(d.x0, d.x1),
      y0: Math.min(d.y0, d.y1),
      y1: Math.max(d.y0, d.y1),
    });
  };
  const say = `place ${place},`;
  return (
    <p className="leading-[1.7]">
      X <LengthToken label={`${say} from X`} mm={at.x0} onCommit={(x0) => set({ x0 })} /> to{" "}
      <LengthToken label={`${say} to X`} mm={at.x1} onCommit={(x1) => set({ x1 })} />, Y{" "}
      <LengthToken label={`${say} from Y`} mm={at.y0} onCommit={(y0) => set({ y0 })} /> to{" "}
      <LengthToken label={`${say} to Y`} mm={at.y1} onCommit={(y1) => set({ y1 })} />,{" "}
      <LengthToken
        label={`${say} height over Z 0`}
        mm={at.height}
        onCommit={(height) => set({ height })}
        why="fast moves are lifted over it"
      />{" "}
      high, with{" "}
      <LengthToken
        label={`${say} room round it`}
        mm={at.margin}
        onCommit={(margin) => set({ margin })}
        why="between the cutter's edge and it, and over it"
      />{" "}
      of room{" "}
      <button className="text-small underline" onClick={onRemove}>
        take out
      </button>
    </p>
  );
}
