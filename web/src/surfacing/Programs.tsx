import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import { type BenchLine, type BoardsTogether, clock } from "../api/model";
import { Save } from "../shared/Save";
import { LengthToken, NumberToken } from "../shared/Tokens";
import { length, metres, squareMetres, useUnit } from "../shared/lengths";
import { type Face, type Tabs } from "./tab";

type Together = Tabs & { more: BenchLine[]; others: string[]; setOthers: (o: string[]) => void };

/** Boards that go into one program, on squares of the numbered grid. */
export function OneProgram({ view, put, more, others, setOthers, face = 1 }: Together) {
  const b = view.bench.board;
  return (
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
      {others.length > 0 && <TheSet view={view} others={others} face={face} />}
    </fieldset>
  );
}

/** What comes of the boards where they lie. */
function TheSet({ view, others, face }: { view: Tabs["view"]; others: string[]; face: Face }) {
  const { unit } = useUnit();
  const found = useQuery({
    queryKey: ["together", view.bench.id, view.revision, others, face],
    queryFn: () =>
      call<BoardsTogether>(`/surfacing/${view.bench.id}/together?others=${others.join(",")}&face=${face}`),
    retry: false,
  });
  if (found.error)
    return (
      <p role="alert" className="mt-1 text-stop">
        {found.error.message}
      </p>
    );
  const t = found.data;
  return t ? (
    <div className="mt-1" data-testid="together">
      <p className="num">
        {clock(t.seconds)}, {metres(t.cut_length, unit)} of cut
      </p>
      {t.boards.map((b) => (
        <p key={b.name} className={b.uncut > 1 ? "text-look" : "label"}>
          {b.name}, square {b.square}:{" "}
          {b.uncut > 1 ? `${squareMetres(b.uncut, unit)} stay uncut where it lies` : "all of it is cut"}
          {b.entries > 0 && `; ${b.entries} run${b.entries === 1 ? "" : "s"} ramp in on the work`}
        </p>
      ))}
    </div>
  ) : (
    <p role="status" className="label mt-1">
      planning the boards where they lie ...
    </p>
  );
}

/** What is saved: programs, the sheet to print, the grid. */
export function Programs({ view, put, others }: Tabs & { others: string[] }) {
  const { unit } = useUnit();
  const b = view.bench.board;
  return (
    <>
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Save
          address={`/surfacing/${view.bench.id}/program?others=${others.join(",")}`}
          words={
            view.second
              ? "Programs for both faces"
              : others.length
                ? `Program for ${others.length + 1} boards`
                : view.shifts.length > 1
                  ? `Programs for ${view.shifts.length} shifts`
                  : "Program"
          }
          strong
        />
        <Save
          address={`/surfacing/${view.bench.id}/sheet.pdf?others=${others.join(",")}`}
          words="Sheet to print"
        />
        {b.kind === "spoilboard" && (
          <Save address={`/surfacing/${view.bench.id}/grid?depth=0.3`} words="Grid to draw" />
        )}
      </div>
      {b.kind === "spoilboard" && (
        <p className="label mt-1">
          Numbered squares of{" "}
          {view.own_grid ? (
            <LengthToken
              label="pitch of the grid"
              mm={view.bench.pitch}
              digits={unit === "mm" ? 0 : 2}
              onCommit={(pitch) => put({ pitch })}
            />
          ) : (
            <>{length(view.grid.pitch, unit)}, as the machine has them</>
          )}
          , drawn with a sprung pen; a cutter that engraves them is chosen with the machine, in the library.
        </p>
      )}
    </>
  );
}
