import { LengthToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";
import { type Tabs, Facts } from "./tab";

export function Faces({ view, put }: Tabs) {
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
      {f.wrong ? (
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
