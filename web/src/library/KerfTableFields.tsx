import type { Machine } from "../api/model";
import { Choice, LengthToken, NumberToken, QuantityToken } from "../shared/Tokens";
import { Line } from "./shelf";

type TableHead = NonNullable<Machine["head"]>;

/** A kerf table's own fields: process, slats, what is below, and what an hour and a start cost. */
export function KerfTableFields({
  m,
  head,
  set,
}: {
  m: Machine;
  head: TableHead;
  set: (f: Partial<Machine>) => void;
}) {
  const put = (f: Partial<TableHead>) => set({ head: { ...head, ...f } });
  const slats = head.slats;
  return (
    <>
      <Line what="head">
        <Choice
          label="process"
          value={head.process ?? "plasma"}
          options={[
            ["plasma", "plasma"],
            ["fluid jet", "fluid jet"],
          ]}
          onPick={(process) => put({ process })}
        />
        ,{" "}
        <NumberToken
          label="seconds to lift"
          value={head.lift ?? 0}
          digits={1}
          unit=" s"
          onCommit={(lift) => put({ lift })}
        />{" "}
        to lift, lower and sense
      </Line>
      <Line what="speeds">
        fast moves{" "}
        <QuantityToken of="feed" label="fast moves" value={m.rapid} onCommit={(rapid) => set({ rapid })} />
      </Line>
      {slats && (
        <Line what="slats">
          along{" "}
          <Choice
            label="slats along"
            value={slats.along ?? "y"}
            options={[
              ["x", "X"],
              ["y", "Y"],
            ]}
            onPick={(along) => put({ slats: { ...slats, along } })}
          />
          , every{" "}
          <LengthToken
            label="pitch of the slats"
            mm={slats.pitch ?? 100}
            onCommit={(pitch) => put({ slats: { ...slats, pitch } })}
          />{" "}
          from{" "}
          <LengthToken
            label="first slat"
            mm={slats.first ?? 50}
            onCommit={(first) => put({ slats: { ...slats, first } })}
          />
          ,{" "}
          <LengthToken
            label="width of a slat"
            mm={slats.width ?? 3}
            onCommit={(width) => put({ slats: { ...slats, width } })}
          />{" "}
          wide
        </Line>
      )}
      <Line what="below">
        <Choice
          label="below the sheet"
          value={head.under ?? "draught"}
          options={[
            ["draught", "extraction"],
            ["water", "water"],
            ["nothing", "nothing"],
          ]}
          onPick={(under) => put({ under })}
        />
      </Line>
      <Line what="costs">
        <NumberToken
          label="machine hour"
          value={m.rate_per_hour ?? 0}
          digits={2}
          onCommit={(rate_per_hour) => set({ rate_per_hour })}
        />{" "}
        an hour, gas or power{" "}
        <NumberToken
          label="gas an hour"
          value={head.gas_per_hour ?? 0}
          digits={2}
          onCommit={(gas_per_hour) => put({ gas_per_hour })}
        />{" "}
        an hour with the head on
        {head.process === "fluid jet" && (
          <>
            ,{" "}
            <NumberToken
              label="abrasive"
              value={head.abrasive ?? 0}
              digits={2}
              unit=" kg/min"
              onCommit={(abrasive) => put({ abrasive })}
            />{" "}
            of abrasive at{" "}
            <NumberToken
              label="price of abrasive"
              value={head.abrasive_price ?? 0}
              digits={2}
              onCommit={(abrasive_price) => put({ abrasive_price })}
            />{" "}
            a kg
          </>
        )}
      </Line>
      <Line what="setting up">
        <NumberToken
          label="minutes to set up"
          value={head.set_up ?? 0}
          unit=" min"
          unsaid={head.set_up == null ? "nobody has said" : undefined}
          onCommit={(set_up) => put({ set_up })}
        />
      </Line>
    </>
  );
}
