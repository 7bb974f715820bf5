import { useState } from "react";

import type { Edits, Revised } from "../../api/edits";
import type { Compared, Setup } from "../../api/model";
import { squareMetres, useUnit } from "../../shared/lengths";

const STATE = {
  same: "unchanged",
  mirrored: "the same, mirrored",
  changed: "changed",
  missing: "gone",
  new: "new",
};

/** A newer drawing before it is taken over: old and new on top of each other, part by part. */
export function RevisionBoard({ revised, setup, edits }: { revised: Revised; setup: Setup; edits: Edits }) {
  const { unit } = useUnit();
  const c = revised.compared,
    key = (p: Compared["parts"][number]) => p.id;
  const old = [...new Set(c.parts.filter((p) => p.state !== "same").map(key))];
  const [chosen, setChosen] = useState<string[]>(old);
  const few = c.parts.length < 3;
  const all = chosen.length === old.length;
  return (
    <div className="flex h-full flex-col p-4">
      <div className="flex items-baseline gap-3">
        <h2 className="text-figure font-semibold">
          {c.file}, version {c.revision}
        </h2>
        <span className="label">old in broken lines, new in full</span>
      </div>
      <ul
        className="mt-2 grid min-h-0 flex-1 auto-rows-min gap-3 overflow-auto"
        style={{ gridTemplateColumns: `repeat(auto-fill, minmax(${few ? 400 : 250}px, 1fr))` }}
        aria-label="Changed parts"
      >
        {c.parts.map((p, i) => (
          <li
            key={p.id || i}
            className={`border bg-paper p-2 ${p.state === "same" ? "border-line opacity-60" : "border-ink"}`}
          >
            <div className="flex items-baseline justify-between gap-2">
              <b className="truncate font-semibold">{p.name}</b>
              <span className={p.state === "missing" ? "text-stop" : "label"}>{STATE[p.state]}</span>
            </div>
            <Overlay part={p} tall={few} />
            <p className="num text-small">
              {squareMetres(p.area_mm2[0], unit)}{" "}
              {p.state !== "same" && <>to {squareMetres(p.area_mm2[1], unit)}</>}
            </p>
            {p.choices.length > 0 && (
              <p className="label">
                hand choices on {p.choices.join(", ")}
                {p.lost.length ? "" : " stay"}
              </p>
            )}
            {p.added.length > 0 && (
              <p className="label">
                {p.state === "new" ? "with" : "new in it:"} {p.added.join(", ")}
              </p>
            )}
            {p.lost.map((l) => (
              <p key={l} className="text-small text-stop">
                {l}
              </p>
            ))}
            {p.state !== "same" && (
              <label className="mt-1 flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="accent-[#1c4e49]"
                  checked={chosen.includes(key(p))}
                  onChange={(e) =>
                    setChosen(e.target.checked ? [...chosen, key(p)] : chosen.filter((x) => x !== key(p)))
                  }
                />
                {p.id ? "adopt" : "take in, with all that are new"}
              </label>
            )}
          </li>
        ))}
      </ul>
      {c.effects.map((e) => (
        <p key={e.setup} className="mt-2">
          Adopted whole, the layout{" "}
          {e.layout[0] === e.layout[1] ? (
            `stays as it is (${e.layout[1] === "none" ? "not nested" : e.layout[1]})`
          ) : (
            <>
              goes from <b>{e.layout[0]}</b> to <b>{e.layout[1]}</b>
            </>
          )}
          {e.stops.length ? (
            <span className="text-stop">
              ; {e.stops.length} new stop{e.stops.length === 1 ? "" : "s"}: {e.stops.slice(0, 2).join("; ")}
            </span>
          ) : null}
          .
        </p>
      ))}
      <div className="mt-3 flex gap-2">
        <button
          className="key-strong"
          disabled={edits.busy || !chosen.length}
          onClick={() => edits.adopt({ revised, setup: setup.id, parts: all ? undefined : chosen })}
        >
          {all ? "Adopt the newer drawing" : `Adopt ${chosen.length} of ${old.length}`}
        </button>
        <button className="key" onClick={() => edits.adopt({ revised, setup: setup.id, parts: null })}>
          Keep the old one
        </button>
      </div>
    </div>
  );
}

function Overlay({ part, tall }: { part: Compared["parts"][number]; tall: boolean }) {
  const boxes = [part.old?.box, part.new?.box].filter((b) => b !== undefined);
  const x0 = Math.min(...boxes.map((b) => b[0])),
    y0 = Math.min(...boxes.map((b) => b[1])),
    x1 = Math.max(...boxes.map((b) => b[2])),
    y1 = Math.max(...boxes.map((b) => b[3])),
    m = Math.max(x1 - x0, y1 - y0) * 0.04;
  return (
    <svg
      className={`my-1 w-full ${tall ? "h-80" : "h-36"}`}
      viewBox={`${x0 - m} ${-(y1 + m)} ${x1 - x0 + 2 * m} ${y1 - y0 + 2 * m}`}
      role="img"
      aria-label={`${part.name}: ${STATE[part.state]}`}
    >
      <g transform="scale(1 -1)">
        {part.new && (
          <path
            d={part.new.contours.map((k) => k.d).join("")}
            fill="#e9d8b2"
            fillRule="evenodd"
            stroke="#21262a"
            strokeWidth={1.6}
            vectorEffect="non-scaling-stroke"
          />
        )}
        {part.old && part.state !== "same" && (
          <path
            d={part.old.contours.map((k) => k.d).join("")}
            fill="none"
            stroke="#a92f22"
            strokeWidth={1.6}
            strokeDasharray="5 4"
            vectorEffect="non-scaling-stroke"
          />
        )}
        {part.new?.features.map((f) => (
          <path
            key={f.name}
            d={f.d}
            fill="none"
            stroke="#1c4e49"
            strokeWidth={part.added.includes(f.name) ? 2.4 : 1}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </g>
    </svg>
  );
}
