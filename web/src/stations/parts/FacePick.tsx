import { Pick } from "../../shared/Pick";

const FACES: ["front" | "back", string][] = [
  ["front", "the front"],
  ["back", "the back"],
];

/** Into which face of a part something is cut. */
export const FacePick = ({
  face = "front",
  change,
}: {
  face?: "front" | "back";
  change: (face: "front" | "back") => void;
}) => <Pick label="which face" value={face} options={FACES} onPick={change} />;
