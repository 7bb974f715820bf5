import { call } from "../api/client";
import { LengthToken } from "../shared/Tokens";
import { length, metres, useUnit } from "../shared/lengths";
import { WORD } from "./Surfacing";
import { type Tabs, Facts } from "./tab";

export function LedgerTab({
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
          {view.second ? "The first face was cut: book it" : "The passes were cut: book them"}
        </button>
        {view.second && (
          <button
            className="key-strong"
            disabled={view.second.booked > 0}
            onClick={() => send("/ledger", { planned: true, face: 2 })}
          >
            The second face was cut: book it
          </button>
        )}
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
