import type { Cutter } from "../api/model";
import { Choice, LengthToken, NumberToken } from "../shared/Tokens";
import { KINDS } from "../stations/cuts/stepWords";
import { CutterDrawing } from "./CutterDrawing";
import { type SetCutter } from "./shelf";
import { TextToken } from "./shelf";

/** A cutter's drawing, number, kind and measures. */
export function CutterMeasures({ c, set }: { c: Cutter; set: SetCutter }) {
  const shaped = ["roundover", "point roundover", "bowl"].includes(c.kind);
  return (
    <div className="flex gap-3">
      <CutterDrawing
        points={c.silhouette ?? []}
        width={110}
        height={168}
        edge={c.cutting_length}
        kind={c.kind}
      />
      <div className="flex-1">
        <h2 className="text-head font-semibold leading-tight">
          <TextToken label="name" value={c.name} onCommit={(name) => set({ name })} />
        </h2>
        <p className="mt-1">
          T
          <NumberToken
            label="tool number"
            value={c.number}
            least={1}
            onCommit={(number) => set({ number: Math.round(number) })}
          />
          ,{" "}
          <Choice
            label="kind"
            value={c.kind}
            options={KINDS.map((k) => [k, k])}
            onPick={(kind) =>
              set({
                kind,
                ...(["roundover", "point roundover", "bowl"].includes(kind) && !c.corner_radius
                  ? { corner_radius: c.diameter / 4 }
                  : {}),
              })
            }
          />
          ,{" "}
          <NumberToken
            label="flutes"
            value={c.flutes}
            least={1}
            onCommit={(flutes) => set({ flutes: Math.round(flutes) })}
          />{" "}
          flute{c.flutes === 1 ? "" : "s"}
        </p>
        <p className="mt-1">
          <LengthToken label="diameter" mm={c.diameter} onCommit={(diameter) => set({ diameter })} /> across,
          edge{" "}
          <LengthToken
            label="cutting length"
            mm={c.cutting_length}
            onCommit={(cutting_length) => set({ cutting_length })}
          />
          , shank <LengthToken label="shank" mm={c.shank} onCommit={(shank) => set({ shank })} />
        </p>
        {(c.angle !== null || ["v-bit", "drill", "tapered ball"].includes(c.kind)) && (
          <p className="mt-1">
            <NumberToken
              label="included angle"
              value={c.angle ?? 90}
              unit="°"
              digits={1}
              onCommit={(angle) => set({ angle })}
            />{" "}
            included
          </p>
        )}
        {(shaped || ["v-bit", "tapered ball"].includes(c.kind)) && (
          <p className="mt-1">
            tip <LengthToken label="tip" mm={c.tip} onCommit={(tip) => set({ tip })} />
            {shaped && (
              <>
                , radius{" "}
                <LengthToken
                  label="corner radius"
                  mm={c.corner_radius}
                  onCommit={(corner_radius) => set({ corner_radius })}
                />
              </>
            )}
          </p>
        )}
        {c.kind === "compression" && (
          <p className="mt-1">
            up-cut end{" "}
            <LengthToken
              label="up-cut end"
              mm={c.up_cut || c.diameter}
              house={!c.up_cut}
              onCommit={(up_cut) => set({ up_cut })}
            />
          </p>
        )}
      </div>
    </div>
  );
}
