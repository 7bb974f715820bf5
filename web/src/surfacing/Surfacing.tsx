import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { changedFields } from "../api/changes";
import { call, patch, post } from "../api/client";
import { type Bench, type BenchLine, type BenchView } from "../api/model";
import { useChanges } from "../api/queries";
import { Home } from "../app/Home";
import { History } from "../history/History";
import { TabRow } from "../shared/TabRow";
import { Wrong } from "../shared/Wrong";
import { bare, UnitSwitch, useUnit } from "../shared/lengths";
import { BoardView } from "./BoardView";
import { CutTab } from "./CutTab";
import { FlatTab } from "./FlatTab";
import { LedgerTab } from "./LedgerTab";
import { NewBoard } from "./NewBoard";
import { RidgeTab } from "./RidgeTab";
import { Said } from "./Said";
import { TradeOff } from "./TradeOff";
import { changeOf, seenFrom } from "./faceView";
import { type Face, type Tab } from "./tab";

const TABS: [Tab, string][] = [
  ["cut", "how cut"],
  ["flat", "how flat"],
  ["ridges", "ridges and tram"],
  ["ledger", "ledger"],
];

/** How a board is changed: one change after the other, what went wrong is said. */
function useBoardChange(v: BenchView | undefined) {
  const client = useQueryClient();
  const [wrong, setWrong] = useState("");
  const change = useMutation({
    mutationFn: (make: () => Promise<BenchView>) => make(),
    scope: { id: "bench" },
    onSuccess: (made) => {
      client.setQueryData(["bench", made.bench.id], made);
      client.invalidateQueries({ queryKey: ["benches"] });
      setWrong("");
    },
    onError: (e: Error) => setWrong(e.message),
  });
  const put = (f: Partial<Bench>) => {
    const fields = changedFields(v!.bench, f);
    if (Object.keys(fields).length)
      change.mutate(() => patch<BenchView>(`/surfacing/${v!.bench.id}`, fields));
  };
  const send = (path: string, body: unknown) =>
    change.mutate(() => post<BenchView>(`/surfacing/${v!.bench.id}${path}`, body));
  return { change, put, send, wrong, setWrong };
}

type State = {
  v: BenchView | undefined;
  busy: boolean;
  send: (path: string, body: unknown) => void;
  onHistory: () => void;
};

/** Which board, at which change, and the way back. */
function BoardState({ v, busy, send, onHistory }: State) {
  return (
    <>
      <p className="min-w-0 truncate text-quiet" aria-live="polite">
        {busy ? (
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
        <button className="key" disabled={!v} onClick={onHistory}>
          History
        </button>
      </div>
    </>
  );
}

/** What the library has newer than the board. */
function News({ news, adopt }: { news: NonNullable<BenchView["news"]>; adopt: () => void }) {
  return (
    <p className="mb-2 flex items-baseline justify-between gap-2 border border-line bg-accent-soft px-2 py-1 text-small">
      <span>
        The library has changed {news.name}: {news.changes.join(", ")}.
      </span>
      <button className="key !py-0" onClick={adopt}>
        Adopt
      </button>
    </p>
  );
}

/** Why there is no board to see. */
function NoBoard({ error, none }: { error: Error | null; none: boolean }) {
  return (
    <main className="grid place-items-center text-quiet">
      {error ? (
        <p role="alert" className="text-stop">
          {error.message}
        </p>
      ) : none ? (
        <p>
          No board yet. Put a spoilboard or a board on the bench above: its size, its thickness, its machine.
        </p>
      ) : (
        <p role="status">reading ...</p>
      )}
    </main>
  );
}

type Shown = {
  v: BenchView;
  list: BenchLine[];
  change: ReturnType<typeof useBoardChange>;
  onGone: () => void;
};

/** One board drawn, with its docket: a face at a time. */
function OnTheBench({ v, list, change: { put, send, wrong, setWrong }, onGone }: Shown) {
  const [tab, setTab] = useState<Tab>("cut"),
    [others, setOthers] = useState<string[]>([]),
    [asked, setFace] = useState<Face>(1);
  const face: Face = v.second ? asked : 1,
    seen = seenFrom(v, face),
    putSeen = (f: Partial<Bench>) => put(changeOf(v, face, f));
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_368px] max-md:grid-cols-[minmax(0,1fr)] max-md:grid-rows-[minmax(0,2fr)_minmax(0,3fr)]">
      <main
        className={`relative grid min-h-0 min-w-0 ${tab === "ridges" ? "grid-rows-[minmax(0,1fr)_290px]" : ""}`}
      >
        <BoardView view={seen} tab={tab} others={list.filter((o) => others.includes(o.id))} />
        {tab === "ridges" && (
          <TradeOff view={seen} onPick={(step_over) => putSeen({ how: { ...seen.bench.how, step_over } })} />
        )}
        <Wrong says={wrong} close={() => setWrong("")} />
      </main>
      <aside
        className="min-h-0 overflow-y-auto border-l-2 border-ink bg-[#fbf7ef] px-4 py-3"
        aria-label="Docket"
      >
        <TabRow label="What is looked at" tabs={TABS} value={tab} onPick={setTab} look="line" />
        {v.news && <News news={v.news} adopt={() => put({ how: { ...v.bench.how, ...v.news!.how } })} />}
        {tab === "cut" ? (
          <CutTab
            view={seen}
            put={putSeen}
            whole={v}
            putWhole={put}
            face={face}
            setFace={setFace}
            list={list}
            others={others}
            setOthers={setOthers}
          />
        ) : tab === "flat" ? (
          <FlatTab view={v} send={send} put={put} />
        ) : tab === "ridges" ? (
          <RidgeTab view={v} put={put} />
        ) : (
          <LedgerTab view={v} send={send} put={put} onGone={onGone} />
        )}
        <Said snags={seen.snags} put={putSeen} view={seen} send={send} />
      </aside>
    </div>
  );
}

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
  const state = useBoardChange(view.data),
    { change, send } = state,
    v = view.data,
    { unit } = useUnit();
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_auto_minmax(0,1fr)]">
      <header className="flex items-center gap-x-4 gap-y-1 max-md:flex-wrap bg-bench px-4 py-1.5">
        <Home />
        <h1 className="text-head font-semibold">Surfacing bench</h1>
        <BoardState
          v={v}
          busy={change.isPending || view.isFetching}
          send={send}
          onHistory={() => setHistory(true)}
        />
        <div className="flex items-center gap-2">
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
        <NoBoard error={view.error} none={list.data?.length === 0} />
      ) : (
        <OnTheBench
          key={v.bench.id}
          v={v}
          list={list.data ?? []}
          change={state}
          onGone={() => {
            client.removeQueries({ queryKey: ["bench", id] });
            client.invalidateQueries({ queryKey: ["benches"] });
            go("/surfacing");
          }}
        />
      )}
      {v && <History id={v.bench.id} open={history} close={() => setHistory(false)} />}
    </div>
  );
}

export const WORD: Record<string, string> = {
  surfaced: "surfaced",
  "through-cut": "through-cuts",
  zero: "Z set anew",
  read: "read",
  replaced: "replaced",
  reversed: "taken back",
};
