import { type Snag } from "../api/model";

/** How the word of a snag's severity is framed. */
export const MARK: Record<Snag["severity"], string> = {
  stop: "border-stop text-stop",
  look: "border-look text-look",
  note: "border-line text-quiet",
};
