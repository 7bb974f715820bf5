import { useState } from "react";

import { type InlayView, type Job, type Part, type Setup } from "../api/model";
import { Choice, LengthToken } from "../shared/Tokens";
import { bare, length, useUnit } from "../shared/lengths";
import { type InlayAsk, type CarveLook, inlayQuery } from "./carving";

/** End mills of the setup that could clear floors, one of each diameter, the finest first. */
export function endMills(setup: Setup) {
  const able = setup.cutters
    .filter((c) => MILLS.has(c.kind) && setup.material.family in c.feeds)
    .sort((a, b) => a.diameter - b.diameter);
  return able.filter((c, k) => k === 0 || able[k - 1].diameter !== c.diameter);
}

const MILLS = new Set([
  "straight",
  "up-cut",
  "down-cut",
  "compression",
  "roughing",
  "single-flute",
  "diamond-tipped",
]);

export function InlayForm({
  job,
  setup,
  part,
  look,
  setLook,
  view,
  busy,
}: {
  job: Job;
  setup: Setup;
  part: Part;
  look: CarveLook;
  setLook: (l: CarveLook) => void;
  view?: InlayView;
  busy: boolean;
}) {
  const { unit } = useUnit();
  const ask = look.inlay!,
    set = (f: Partial<InlayAsk>) => setLook({ ...look, inlay: { ...ask, ...f } });
  const [y, setY] = useState<number | null>(null);
  const mills = endMills(setup);
  const stopped = view?.snags.some((s) => s.severity === "stop") ?? false;
  return (
    <div className="text-small">
      <p className="leading-[1.6]">
        The socket is{" "}
        <LengthToken label="depth of the socket" mm={ask.depth} onCommit={(depth) => set({ depth })} /> deep,
        the plug stays{" "}
        <LengthToken
          label="glue gap"
          mm={ask.gap}
          onCommit={(gap) => set({ gap })}
          why="for glue between the plug's face and the floor"
        />{" "}
        above its floor,{" "}
        <LengthToken label="room for the saw" mm={ask.saw} onCommit={(saw) => set({ saw })} /> to saw it off;
        floors by{" "}
        <Choice
          wide
          label="end mill for floors"
          value={ask.clear === null ? "" : String(ask.clear)}
          options={[
            ["", "the bit alone"],
            ...mills.map((c): [string, string] => [String(c.diameter), c.name]),
          ]}
          onPick={(v) => set({ clear: v ? Number(v) : null })}
        />
        .
      </p>
      {view && (
        <>
          <dl className={`mt-1 grid grid-cols-[1fr_auto] gap-x-3 ${busy ? "opacity-60" : ""}`}>
            <dt>overlap of the two</dt>
            <dd className="num text-right">
              {view.mating.overlap === 0 ? "none" : `${view.mating.overlap.toFixed(1)} mm³`}
            </dd>
            <dt>gap under the plug</dt>
            <dd className="num text-right">{length(view.mating.floor_gap, unit, unit === "mm" ? 2 : 4)}</dd>
            <dt>the plug's size is reckoned</dt>
            <dd className="num text-right">{length(view.plane, unit)} down</dd>
            <dt>the plug's board at least</dt>
            <dd className="num text-right">
              {bare(view.plug_board[0], unit, 0)} x {length(view.plug_board[1], unit, 0)}
            </dd>
          </dl>
          <label className="mt-1 flex items-center gap-2">
            <span className="label shrink-0">section at Y</span>
            <input
              type="range"
              className="min-w-0 flex-1 accent-[#1c4e49]"
              min={view.range[0]}
              max={view.range[1]}
              step={(view.range[1] - view.range[0]) / 200}
              value={y ?? view.y}
              aria-label="Where the section runs"
              onChange={(e) => setY(Number(e.target.value))}
              onPointerUp={() => y !== null && set({ y })}
              onKeyUp={() => y !== null && set({ y })}
            />
            <span className="num w-14 text-right">{bare(y ?? view.y, unit, 1)}</span>
          </label>
          {view.snags
            .filter((x) => x.severity !== "note")
            .map((x) => (
              <p
                key={x.message}
                role={x.severity === "stop" ? "alert" : undefined}
                className={x.severity === "stop" ? "text-stop" : ""}
              >
                <b>{x.severity === "stop" ? "Stop." : "Look."}</b> {x.message}
              </p>
            ))}
          <p className="label mt-1">cut with {view.cutters.join(" and ")}</p>
          {!stopped && (
            <p className="mt-1.5">
              <a
                className="key inline-block"
                href={`/api/jobs/${job.id}/inlay.zip?${inlayQuery(setup, part, ask)}`}
                download
              >
                Both programs
              </a>{" "}
              <span className="label">glue, press in, let it set, saw off, face</span>
            </p>
          )}
        </>
      )}
    </div>
  );
}
