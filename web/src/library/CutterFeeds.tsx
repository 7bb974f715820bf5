import { post } from "../api/client";
import type { Library as Lib } from "../api/model";
import type { Cutter } from "../api/model";
import { NumberToken, QuantityToken } from "../shared/Tokens";
import { bare, useUnit } from "../shared/lengths";
import { type SetCutter } from "./shelf";
import { FAMILIES, TextToken } from "./shelf";

type Props = {
  c: Cutter;
  set: SetCutter;
  lib: Lib;
  family: string;
  setFamily: (f: string) => void;
  onBench: () => void;
};

/** A cutter's speed and feeds, a family at a time, or a way to them. */
export function CutterFeeds({ c, set, lib, family, setFamily, onBench }: Props) {
  const { unit } = useUnit();
  const material = lib.material.find((m) => m.family === family) ?? lib.material[0],
    feeds = c.feeds[family],
    machine = lib.machine[0];
  return (
    <>
      <div className="mt-2 flex gap-1" role="group" aria-label="Family">
        {FAMILIES.map((f) => (
          <button
            key={f}
            className={`${family === f ? "key-strong" : "key"} !px-2 !py-0`}
            aria-pressed={family === f}
            onClick={() => setFamily(f)}
          >
            {f}
            {c.feeds[f] ? "" : " -"}
          </button>
        ))}
      </div>
      {feeds ? (
        <>
          <p className="mt-1.5">
            <NumberToken
              label="rpm"
              value={feeds.rpm}
              unit=" rpm"
              least={1}
              onCommit={(rpm) => set({ feeds: { ...c.feeds, [family]: { ...feeds, rpm } } })}
            />
            ,{" "}
            <QuantityToken
              of="feed"
              label="feed"
              value={feeds.feed}
              least={0.001}
              onCommit={(feed) => set({ feeds: { ...c.feeds, [family]: { ...feeds, feed } } })}
            />
            , plunge{" "}
            <QuantityToken
              of="feed"
              label="plunge"
              value={feeds.plunge}
              least={0.001}
              onCommit={(plunge) => set({ feeds: { ...c.feeds, [family]: { ...feeds, plunge } } })}
            />
            ; chip{" "}
            <span className="num">
              {bare(feeds.feed / feeds.rpm / c.flutes, unit, unit === "mm" ? 3 : 4)}
            </span>
          </p>
          <p className="label">
            source:{" "}
            <TextToken
              label="source of the feeds"
              value={feeds.source}
              onCommit={(source) =>
                set({ feeds: { ...c.feeds, [family]: { ...feeds, source: source || "common practice" } } })
              }
            />
          </p>
          <div className="mt-1 flex gap-2">
            {material.family === family && (
              <button className="key" onClick={() => onBench()}>
                Feed window
              </button>
            )}
            <button
              className="key"
              onClick={() => {
                const next = { ...c.feeds };
                delete next[family];
                set({ feeds: next });
              }}
            >
              Not for {family}
            </button>
          </div>
        </>
      ) : (
        <p className="mt-1.5 text-quiet">
          No feeds for {family}: operations refuse it there.{" "}
          {lib.material.some((m) => m.family === family) && (
            <button
              className="key !py-0"
              onClick={() =>
                post<{ rpm: number; feed: number; plunge: number }>("/feeds", {
                  cutter: c.id,
                  material: lib.material.find((m) => m.family === family)!.id,
                  machine: machine?.id,
                }).then((a) =>
                  set({
                    feeds: {
                      ...c.feeds,
                      [family]: {
                        rpm: Math.round(a.rpm / 100) * 100,
                        feed: Math.round(a.feed / 10) * 10,
                        plunge: Math.round(a.plunge / 10) * 10,
                        source: "middle of the window; not tried yet",
                      },
                    },
                  }),
                )
              }
            >
              Propose from the feed window
            </button>
          )}
        </p>
      )}
    </>
  );
}
