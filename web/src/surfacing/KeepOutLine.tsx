import { type KeepOut } from "../api/model";
import { Choice, LengthToken } from "../shared/Tokens";

/** One clamp or stop: where it lies, how high it stands and the room it is given. */
export function KeepOutLine({
  place,
  at,
  onChange,
  onRemove,
}: {
  place: number;
  at: KeepOut;
  onChange: (next: KeepOut) => void;
  onRemove: () => void;
}) {
  const set = (more: Partial<KeepOut>) => {
    const d = { ...at, ...more };
    onChange({
      ...d,
      x0: Math.min(d.x0, d.x1),
      x1: Math.max(d.x0, d.x1),
      y0: Math.min(d.y0, d.y1),
      y1: Math.max(d.y0, d.y1),
    });
  };
  const say = `place ${place},`;
  return (
    <p className="leading-[1.7]">
      <Choice
        label={`${say} what stands there`}
        value={at.what}
        options={[
          ["clamp", "A clamp"],
          ["cam", "A cam at the side"],
          ["stop", "A stop"],
          ["pod", "A pod under it"],
          ["insert", "An insert"],
        ]}
        onPick={(what) => set({ what })}
      />
      , X <LengthToken label={`${say} from X`} mm={at.x0} onCommit={(x0) => set({ x0 })} /> to{" "}
      <LengthToken label={`${say} to X`} mm={at.x1} onCommit={(x1) => set({ x1 })} />, Y{" "}
      <LengthToken label={`${say} from Y`} mm={at.y0} onCommit={(y0) => set({ y0 })} /> to{" "}
      <LengthToken label={`${say} to Y`} mm={at.y1} onCommit={(y1) => set({ y1 })} />, its top at Z{" "}
      <LengthToken
        label={`${say} height over Z 0`}
        mm={at.height}
        onCommit={(height) => set({ height })}
        why="over Z 0: fast moves are lifted over it; under Z 0 (-6): passes that stay higher go over it"
      />
      , with{" "}
      <LengthToken
        label={`${say} room round it`}
        mm={at.margin}
        onCommit={(margin) => set({ margin })}
        why="between the cutter's edge and it, and over it"
      />{" "}
      of room{" "}
      <button className="text-small underline" onClick={onRemove}>
        remove
      </button>
    </p>
  );
}
