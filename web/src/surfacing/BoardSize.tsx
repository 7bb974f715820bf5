import { type Board } from "../api/model";
import { Choice, LengthToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";
import { HeldBy } from "./Held";
import { type Tabs } from "./tab";

/** How large a board is, where it lies, how thick it is now. */
export function BoardSize({ view, put, face = 1 }: Tabs) {
  const { unit } = useUnit();
  const b = view.bench.board,
    board = (f: Partial<Board>) => put({ board: { ...b, ...f } });
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
        on the table;{" "}
        <b className="num font-medium">{length(face === 2 ? b.thickness : view.state.thickness, unit)}</b>{" "}
        thick {face === 2 ? "then" : "now"}.
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
        )}{" "}
        <HeldBy held={b.held} onPick={(held) => board({ held })} />
      </p>
    </>
  );
}
