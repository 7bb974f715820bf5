import type { Cutter, Machine } from "../api/model";
import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { GridProgram } from "./GridProgram";
import { Line, TextToken } from "./shelf";

type Props = { m: Machine; cutters: Cutter[]; set: (f: Partial<Machine>) => void };
const CORNERS = ["lower left", "lower right", "upper left", "upper right"] as const;

/** Where the machine is at home, the numbered grid on its table, and the jigs that work is laid against. */
export function MachineZeros({ m, cutters, set }: Props) {
  return (
    <>
      <Line what="home">
        the table's{" "}
        <Choice
          label="home"
          value={m.home}
          options={CORNERS.map((c) => [c, c])}
          onPick={(home) => set({ home })}
        />{" "}
        corner
      </Line>
      <Line what="grid">
        <Grid m={m} set={set} />
        {m.grid && <GridProgram m={m} cutters={cutters} />}
      </Line>
      <Line what="jigs">
        {m.jigs.map((j, i) => {
          const put = (f: Partial<typeof j>) =>
            set({ jigs: m.jigs.map((x, k) => (k === i ? { ...x, ...f } : x)) });
          return (
            <span key={j.id} className="mr-3 whitespace-nowrap">
              <TextToken label={`jig ${i + 1}`} value={j.name} onCommit={(name) => put({ name })} /> at{" "}
              <LengthToken
                label={`jig ${i + 1} X`}
                mm={j.at[0]}
                onCommit={(x) => put({ at: [x, j.at[1]] })}
              />
              ,{" "}
              <LengthToken
                label={`jig ${i + 1} Y`}
                mm={j.at[1]}
                onCommit={(y) => put({ at: [j.at[0], y] })}
              />{" "}
              <button
                className="key !px-2 !py-0"
                aria-label={`Remove ${j.name}`}
                onClick={() => set({ jigs: m.jigs.filter((x) => x !== j) })}
              >
                −
              </button>
            </span>
          );
        })}
        <button
          className="key !py-0"
          onClick={() =>
            set({
              jigs: [
                ...m.jigs,
                { id: `jig-${Date.now().toString(36)}`, name: `Jig ${m.jigs.length + 1}`, at: [0, 0] },
              ],
            })
          }
        >
          + a jig
        </button>
      </Line>
    </>
  );
}

function Grid({ m, set }: Omit<Props, "cutters">) {
  const g = m.grid;
  if (!g)
    return (
      <>
        none on the table{" "}
        <button
          className="key !py-0"
          onClick={() =>
            set({
              grid: {
                pitch: 100,
                at: [0, 0],
                columns: Math.max(1, Math.floor(m.width / 100)),
                rows: Math.max(1, Math.floor(m.height / 100)),
              },
            })
          }
        >
          It has a grid
        </button>
      </>
    );
  return (
    <>
      <NumberToken
        label="columns of the grid"
        value={g.columns}
        least={1}
        onCommit={(v) => set({ grid: { ...g, columns: Math.round(v) } })}
      />{" "}
      by{" "}
      <NumberToken
        label="rows of the grid"
        value={g.rows}
        least={1}
        onCommit={(v) => set({ grid: { ...g, rows: Math.round(v) } })}
      />{" "}
      squares of{" "}
      <LengthToken
        label="pitch of the grid"
        mm={g.pitch}
        onCommit={(pitch) => set({ grid: { ...g, pitch } })}
      />
      , from{" "}
      <LengthToken label="grid X" mm={g.at[0]} onCommit={(x) => set({ grid: { ...g, at: [x, g.at[1]] } })} />,{" "}
      <LengthToken label="grid Y" mm={g.at[1]} onCommit={(y) => set({ grid: { ...g, at: [g.at[0], y] } })} />{" "}
      <button className="key !py-0" onClick={() => set({ grid: null })}>
        Take it off
      </button>
    </>
  );
}
