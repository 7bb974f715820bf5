import { type Board } from "../api/model";
import { KeepOutLine } from "./KeepOutLine";
import { type Tabs } from "./tab";

/** Clamps and stops that the cutter keeps clear of. */
export function KeepOuts({ view, put }: Tabs) {
  const b = view.bench.board,
    board = (f: Partial<Board>) => put({ board: { ...b, ...f } });
  return (
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
              {
                what: "clamp",
                x0: b.width / 2 - 30,
                y0: 0,
                x1: b.width / 2 + 30,
                y1: 40,
                height: 25,
                margin: 3,
              },
            ],
          })
        }
      >
        + a clamp, cam, stop or pod
      </button>
    </details>
  );
}
