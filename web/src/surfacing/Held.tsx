import { type BoardHeld } from "../api/model";
import { Choice } from "../shared/Tokens";

const WAYS: [BoardHeld | "nobody", string][] = [
  ["screws", "screws"],
  ["clamps", "clamps"],
  ["side cams", "cams at its sides"],
  ["vacuum pods", "vacuum pods"],
  ["tape", "double-sided tape"],
  ["nobody", "nobody said"],
];

/** By what a board is held. */
export function HeldBy({
  held,
  onPick,
}: {
  held: BoardHeld | null | undefined;
  onPick: (h: BoardHeld | null) => void;
}) {
  return (
    <>
      Held by{" "}
      <Choice
        label="held by"
        value={held ?? "nobody"}
        options={WAYS}
        onPick={(v) => onPick(v === "nobody" ? null : v)}
      />
      .
    </>
  );
}
