import { type Bench, type BenchView } from "../api/model";
import { inUnit, Choice, LengthToken } from "../shared/Tokens";
import { useUnit } from "../shared/lengths";
import { type Face, type Tabs } from "./tab";

/** Which face is looked at; a board may have its other face cut too. */
export function FaceKeys({ view, put, face, setFace }: Tabs & { face: Face; setFace: (f: Face) => void }) {
  const second = view.bench.second;
  if (view.bench.board.kind !== "board") return null;
  if (!second)
    return (
      <button
        className="key !py-0"
        onClick={() => {
          put({ second: asTheFirst(view.bench.how) });
          setFace(2);
        }}
      >
        + its other face too
      </button>
    );
  return (
    <div className="flex gap-1.5" role="group" aria-label="Face">
      {([1, 2] as const).map((f) => (
        <button
          key={f}
          className={`${f === face ? "key-strong" : "key"} !py-0`}
          aria-pressed={f === face}
          disabled={f === 2 && !view.second}
          onClick={() => setFace(f)}
        >
          {f === 1 ? "First face" : "Second face"}
        </button>
      ))}
      <button
        className="key ml-auto !py-0"
        onClick={() => {
          setFace(1);
          put({ second: null });
        }}
      >
        Only one face
      </button>
    </div>
  );
}

/** A second face cut with the cutter and the step-over of the first, its Z taken from the table. */
const asTheFirst = (how: Bench["how"]): NonNullable<Bench["second"]> => ({
  how: { ...how, start: 0, only_touched: false, touch: "table" },
  turn: "x",
  stands: 0,
  held: null,
  dead: [],
});

/** How a board is turned, and what is done between its faces. */
export function TurnedOver({ whole, put }: { whole: BenchView; put: (f: Partial<Bench>) => void }) {
  const { unit } = useUnit();
  const second = whole.bench.second!;
  return (
    <section className="mt-2 text-small" aria-label="Turned over">
      <p className="leading-[1.65]">
        Turned over about its edge along{" "}
        <Choice
          label="turned about"
          value={second.turn}
          options={[
            ["x", "X"],
            ["y", "Y"],
          ]}
          onPick={(turn) => put({ second: { ...second, turn } })}
        />
        ; its highest place then stands{" "}
        <LengthToken
          label="highest place over the thickness"
          mm={second.stands}
          onCommit={(stands) => put({ second: { ...second, stands } })}
          why="how much thicker the board is there than at its thinnest place"
        />{" "}
        over its thickness.
      </p>
      <details className="mt-1" open>
        <summary className="cursor-pointer">Between the faces</summary>
        <ol className="ml-4 list-decimal">
          {whole.second?.turning.map((t) => (
            <li key={t}>{inUnit(t, unit)}</li>
          ))}
        </ol>
      </details>
    </section>
  );
}
