import { type Surfacing as How } from "../api/model";
import { useLibrary } from "../api/queries";
import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { type Tabs } from "./tab";

/** The cutter, its diameter and its step-over. */
export function WithCutter({ view, put }: Tabs) {
  const library = useLibrary().data;
  const s = view.bench.how,
    how = (f: Partial<How>) => put({ how: { ...s, ...f } });
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
  return (
    <>
      , with{" "}
      <Choice
        wide
        label="cutter"
        value={cutters.find((c) => c.name === s.cutter_name)?.id ?? ""}
        options={[
          ...(cutters.some((c) => c.name === s.cutter_name) ? [] : [["", s.cutter_name] as [string, string]]),
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
    </>
  );
}

/** How many passes, how deep, and the fine one. */
export function PassesOf({ view, put, face = 1 }: Tabs) {
  const s = view.bench.how,
    how = (f: Partial<How>) => put({ how: { ...s, ...f } });
  return (
    <>
      ,{" "}
      {face === 2 ? (
        <span className="num" title="as many even passes as the wanted thickness asks">
          {s.passes}
        </span>
      ) : (
        <NumberToken
          label="passes"
          value={s.passes}
          least={1}
          onCommit={(v) => how({ passes: Math.round(v) })}
        />
      )}{" "}
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
    </>
  );
}

/** How far the edge overruns and where Z 0 is touched off. */
export function TouchOff({ view, put, face = 1 }: Tabs) {
  const s = view.bench.how,
    how = (f: Partial<How>) => put({ how: { ...s, ...f } });
  return (
    <>
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
          ...(face === 1 ? [["high spot", "high spot"] as [How["touch"], string]] : []),
          ["middle", "middle"],
          ["lower left corner", "lower left corner"],
          ...(face === 2 ? [["table", "table beside it"] as [How["touch"], string]] : []),
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
    </>
  );
}
