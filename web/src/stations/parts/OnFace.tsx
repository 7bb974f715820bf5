import { useRef, useState } from "react";

import type { Edits } from "../../api/edits";
import type { Judgement, Part } from "../../api/model";
import { Choice, LengthToken, NumberToken } from "../../shared/Tokens";
import { FacePick } from "./FacePick";
import { MadeHere } from "./MadeHere";

type Altered = Judgement["alterations"];
type Model = Extract<Altered[number]["value"], { kind: "model" }>;

/** Reliefs on a part's face: a model or a picture of heights is set on it, and where it lies, how large and how deep it is, is changed where it stands. */
export function OnFace({
  part,
  edits,
  list,
  lines,
}: {
  part: Part;
  edits: Edits;
  list: Altered;
  lines: Judgement["lines"];
}) {
  const input = useRef<HTMLInputElement>(null);
  const [smooth, setSmooth] = useState(0),
    [blackHigh, setBlackHigh] = useState(false);
  return (
    <>
      <h3 className="mt-3 font-semibold">Relief on the face</h3>
      {list.map((a, number) =>
        a.value.kind === "model" ? (
          <Set
            key={number}
            of={a.value}
            change={(fields) => edits.run({ kind: "change-model", part: part.id, number, fields })}
          />
        ) : a.value.kind === "made" ? (
          <MadeHere key={number} of={a.value} number={number} part={part} edits={edits} lines={lines} />
        ) : null,
      )}
      <div className="mt-1 flex flex-wrap items-baseline gap-1.5">
        <button
          className="key"
          disabled={edits.settingModel}
          onClick={() => input.current?.click()}
          title="STL, OBJ, 3MF or PLY in millimetres, or PNG or TIFF"
        >
          {edits.settingModel ? "setting the model ..." : "Set a model or a picture on it"}
        </button>
        <button
          className="key"
          title="Domes, dishes, ramps, plateaus, beads, swept sections, textures: no modeller is needed"
          onClick={() => edits.run({ kind: "make-surface", part: part.id })}
        >
          Make one here
        </button>
      </div>
      <p className="label">
        Of a picture{" "}
        <Choice
          label="which grey is high"
          value={blackHigh ? "black" : "white"}
          options={[
            ["white", "white"],
            ["black", "black"],
          ]}
          onPick={(v) => setBlackHigh(v === "black")}
        />{" "}
        is high, smoothed over{" "}
        <NumberToken
          label="pixels smoothed over"
          value={smooth}
          digits={1}
          onCommit={(v) => setSmooth(Math.min(200, v))}
          why="neighbours are averaged, so that grey levels do not show as stairs"
        />{" "}
        pixels.
      </p>
      <input
        ref={input}
        type="file"
        className="hidden"
        accept=".stl,.obj,.3mf,.ply,.png,.tif,.tiff"
        aria-label="Model or picture of heights"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (!file) return;
          // a model has no greys to turn over
          const picture = /\.(png|tiff?)$/i.test(file.name);
          edits.setModel({ part: part.id, file, ...(picture ? { smooth, blackHigh } : {}) });
          e.target.value = "";
        }}
      />
    </>
  );
}

type Fields = Partial<Pick<Model, "at" | "size" | "height" | "sits" | "margin" | "face">>;

function Set({ of, change }: { of: Model; change: (fields: Fields) => void }) {
  const [x, y] = of.at,
    [w, h] = of.size,
    evenly = (k: number): Fields => ({
      size: [w * k, h * k],
      at: [x - (w * (k - 1)) / 2, y - (h * (k - 1)) / 2],
    });
  return (
    <p className="rule py-1 leading-[1.7]" aria-label={`Relief of ${of.name}`}>
      <b className="font-semibold">{of.name}</b>,{" "}
      <LengthToken
        label="width of the relief"
        mm={w}
        onCommit={(mm) => change(evenly(mm / w))}
        why="scaled evenly in plan, about its middle"
      />{" "}
      by{" "}
      <LengthToken
        label="length of the relief"
        mm={h}
        onCommit={(mm) => change(evenly(mm / h))}
        why="scaled evenly in plan, about its middle"
      />
      ,{" "}
      <LengthToken
        label="height of the relief"
        mm={of.height}
        onCommit={(height) => change({ height })}
        why="from its lowest to its highest place"
      />{" "}
      high, its top{" "}
      <LengthToken
        label="below the face"
        mm={of.sits ?? 0}
        onCommit={(sits) => change({ sits })}
        why="uneven stock leaves flat spots where the top is at the face itself"
      />{" "}
      below the face; from the left{" "}
      <LengthToken label="from the left" mm={x} onCommit={(mm) => change({ at: [mm, y] })} />, from below{" "}
      <LengthToken label="from below" mm={y} onCommit={(mm) => change({ at: [x, mm] })} />; tips go{" "}
      <LengthToken
        label="beyond the outline"
        mm={of.margin ?? 0}
        onCommit={(margin) => change({ margin })}
        why="where the rim slopes down they need room beside it; 1/4 in is usual"
      />{" "}
      beyond its outline; it is cut into <FacePick face={of.face} change={(face) => change({ face })} />.
    </p>
  );
}
