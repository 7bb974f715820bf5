import { useState } from "react";

import type { Cutter } from "../api/model";
import { FeedsBench } from "../feeds/FeedsBench";
import { CutterFeeds } from "./CutterFeeds";
import { CutterFinishes } from "./CutterFinishes";
import { CutterMeasures } from "./CutterMeasures";
import { CutterReach } from "./CutterReach";
import { type Ctx } from "./shelf";
export function CutterCard({ c, lib, save, remove }: { c: Cutter } & Ctx) {
  const [family, setFamily] = useState(Object.keys(c.feeds)[0] ?? "wood"),
    [bench, setBench] = useState(false);
  const set = (fields: Partial<Cutter>) => save("cutter", { ...c, ...fields, silhouette: undefined });
  const material = lib.material.find((m) => m.family === family) ?? lib.material[0],
    feeds = c.feeds[family];
  const machine = lib.machine[0];
  if (bench)
    return (
      <div className="min-h-0 overflow-auto border border-line bg-paper p-3">
        <FeedsBench
          ask={{ cutter: c.id, material: material.id, machine: machine?.id }}
          title={`${c.name} in ${material.name}`}
          onBack={() => setBench(false)}
          onKeep={(rpm, feed) => {
            set({
              feeds: {
                ...c.feeds,
                [family]: {
                  rpm,
                  feed,
                  plunge: feeds?.plunge ?? feed / 2,
                  source: "shop's own, from the window",
                },
              },
            });
            setBench(false);
          }}
        />
      </div>
    );
  return (
    <article className="min-h-0 overflow-auto border border-line bg-paper p-3" aria-label={c.name}>
      <CutterMeasures c={c} set={set} />
      <CutterReach c={c} set={set} holders={lib.holder} />
      <CutterFeeds
        c={c}
        set={set}
        lib={lib}
        family={family}
        setFamily={setFamily}
        onBench={() => setBench(true)}
      />
      <CutterFinishes cutter={c.id} />
      <p className="mt-3">
        <button className="key" onClick={() => remove("cutter", c.id)}>
          Take it out of the library
        </button>
      </p>
    </article>
  );
}
