import { clock, type AlongTable } from "../api/model";
import { useJobView } from "../job/view";
import { Choices } from "../shared/Choices";
import { Section } from "../shared/Section";
import { inUnit, LengthToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";
import { useShownPosition } from "./shownAt";

/** Stock that is longer than the table: the positions it is moved along in. */
export function LongStock() {
  const { setup, edits } = useJobView();
  const long = setup.long;
  if (!long) return null;
  if (long.along) return <Along long={long.along} />;
  if (!long.longer) return null;
  return (
    <Section title="Longer than the table" open>
      <p className="label mt-1">
        {setup.machine.name} does not reach all of {long.longer}. It can be moved along the table and cut
        position by position.
      </p>
      <button className="key mt-1" onClick={() => edits.run({ kind: "place-along", setup: setup.id })}>
        Move it along in positions
      </button>
    </Section>
  );
}

type Change = (fields: Record<string, unknown>) => void;

function Along({ long }: { long: AlongTable }) {
  const { setup, edits } = useJobView();
  const change: Change = (fields) => edits.run({ kind: "change-indexing", setup: setup.id, fields });
  return (
    <section aria-label="Long stock" className="mt-2 border-t border-line pt-2">
      <h3 className="font-semibold">Moved along the table in {long.positions.length} positions</h3>
      <Positions long={long} change={change} />
      <Brought long={long} change={change} />
      <p className="mt-1">
        Where a cut is made in lengths both positions cut{" "}
        <LengthToken
          label="overlap"
          mm={long.indexing.overlap ?? 10}
          onCommit={(overlap) => change({ overlap })}
        />{" "}
        of it.
      </p>
      <Meets long={long} />
      <button className="key mt-2" onClick={() => edits.run({ kind: "stop-indexing", setup: setup.id })}>
        Leave it where it lies
      </button>
    </section>
  );
}

function Positions({ long, change }: { long: AlongTable; change: Change }) {
  const { setup, edits } = useJobView();
  const { unit } = useUnit();
  const [shown, show] = useShownPosition();
  const moved = long.indexing.moved;
  const put = (n: number, mm: number) => change({ moved: { "=": moved.map((m, i) => (i === n ? mm : m)) } });
  return (
    <>
      <ol aria-label="Positions" className="mt-1">
        {long.positions.map((p) => (
          <li key={p.number} className="flex flex-wrap items-baseline gap-x-1.5">
            <button
              className={`${p.number === shown ? "key-strong" : "key"} !px-2 !py-0`}
              aria-pressed={p.number === shown}
              aria-label={`show position ${p.number}`}
              title={inUnit(p.says, unit)}
              onClick={() => show(p.number)}
            >
              {p.number}
            </button>
            {p.number === 1 ? (
              <span>as it lies first</span>
            ) : (
              <span>
                moved{" "}
                <LengthToken
                  label={`moved at position ${p.number}`}
                  mm={p.moved}
                  onCommit={(mm) => put(p.number - 2, mm)}
                />
              </span>
            )}
            <span className="label">
              {p.cuts} {p.cuts === 1 ? "cut" : "cuts"}, {clock(p.seconds)}
            </span>
            {moved.length > 1 && p.number === long.positions.length && (
              <button
                className="ml-auto underline decoration-dotted"
                aria-label={`remove position ${p.number}`}
                onClick={() => change({ moved: { "=": moved.slice(0, -1) } })}
              >
                remove
              </button>
            )}
          </li>
        ))}
      </ol>
      <div className="mt-1 flex flex-wrap gap-2">
        <button
          className="key"
          onClick={() => change({ moved: { "=": [...moved, moved[moved.length - 1] + step(moved)] } })}
        >
          One more
        </button>
        {long.better && (
          <button className="key" onClick={() => edits.run({ kind: "place-along", setup: setup.id })}>
            Lay them anew
          </button>
        )}
      </div>
    </>
  );
}

/** How far the stock went last, mm. */
const step = (moved: number[]) => moved[moved.length - 1] - (moved[moved.length - 2] ?? 0);

function Brought({ long, change }: { long: AlongTable; change: Change }) {
  const { setup, edits } = useJobView();
  const { unit } = useUnit();
  const brought = long.indexing.brought ?? { kind: "mark" as const, at: 0 };
  return (
    <div className="mt-2">
      <Choices
        label="Brought there by"
        value={brought.kind ?? "mark"}
        options={[
          ["mark", "lines along a fence"],
          ["pins", "pins"],
        ]}
        onPick={(by) =>
          edits.run({ kind: "place-along", setup: setup.id, by: by === "pins" ? "pins" : "mark" })
        }
      />
      {brought.kind === "pins" ? (
        <ul aria-label="Pins" className="mt-1">
          {(brought.pins ?? []).map((p, i) => {
            const set = (fields: Record<string, unknown>) =>
              change({
                brought: {
                  pins: { "=": (brought.pins ?? []).map((q, j) => (i === j ? { ...q, ...fields } : q)) },
                },
              });
            return (
              <li key={p.id} className="flex flex-wrap items-baseline gap-x-1.5">
                <span className="label">{p.id}</span>
                <LengthToken
                  label={`diameter of ${p.id}`}
                  mm={p.diameter}
                  onCommit={(diameter) => set({ diameter })}
                />
                at
                <LengthToken label={`X of ${p.id}`} mm={p.x} onCommit={(x) => set({ x })} />,
                <LengthToken label={`Y of ${p.id}`} mm={p.y} onCommit={(y) => set({ y })} />
              </li>
            );
          })}
          {long.nearest_error !== null && (
            <li className="label">
              {long.nearest_error < 0.5
                ? `It goes on ${long.nearest.replace(/^on /, "")} as well.`
                : `It goes on its own holes alone; ${long.nearest}, a pin is off by ${length(long.nearest_error, unit, unit === "mm" ? 1 : 3)}.`}
            </li>
          )}
          {long.placeable && (
            <li>
              <button
                className="key mt-1"
                onClick={() => edits.run({ kind: "place-along", setup: setup.id, by: "pins" })}
              >
                Place them where there is room
              </button>
            </li>
          )}
        </ul>
      ) : (
        <p className="mt-1">
          The mark on the fence lies{" "}
          <LengthToken
            label="mark on the fence"
            mm={brought.at ?? 0}
            onCommit={(at) => change({ brought: { at } })}
          />{" "}
          along the stock as it lies first; lines for the other positions are drawn on its edge.
        </p>
      )}
    </div>
  );
}

function Meets({ long }: { long: AlongTable }) {
  const { unit } = useUnit();
  const fine = unit === "mm" ? 2 : 4;
  if (long.across === null)
    return long.seams.length ? null : <p className="label mt-1">Every cut is made whole, at one position.</p>;
  return (
    <Section title="Lengths of a cut meet" figure={`within ${length(long.across, unit, fine)}`}>
      <ul className="label mt-1">
        {long.shares.map((s) => (
          <li key={s.what} className="flex gap-2">
            {s.what} <span className="num ml-auto">{length(s.mm, unit, fine)}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
