import { useRef, useState } from "react";

import type { Edits } from "../../api/edits";
import type { Judgement, Part } from "../../api/model";
import { Pick } from "../../shared/Pick";

type Seen = "the back" | "the front";
const SIDES: [Seen, string][] = [
  ["the back", "the back"],
  ["the front", "the front, through the part"],
];

/** A second drawing as the back of a part, laid on it by its outline. */
export function BackDrawing({
  part,
  edits,
  list,
}: {
  part: Part;
  edits: Edits;
  list: Judgement["alterations"];
}) {
  const input = useRef<HTMLInputElement>(null);
  const [seen, setSeen] = useState<Seen>("the back");
  return (
    <>
      <h3 className="mt-3 font-semibold">Its back</h3>
      {list.map(
        (a, number) =>
          a.value.kind === "back" &&
          (a.value.also ?? []).length > 0 && (
            <p key={number} className="rule py-1">
              {a.value.name} fits turned by {[...(a.value.also ?? [])].join(", ")} degrees as well.{" "}
              <button className="key !py-0" onClick={() => edits.turnBack(part.id, number)}>
                Turn it
              </button>
            </p>
          ),
      )}
      <p className="mt-1">
        <button className="key" disabled={edits.settingModel} onClick={() => input.current?.click()}>
          Take in a drawing of its back
        </button>{" "}
        seen from <Pick label="side the back is seen from" value={seen} options={SIDES} onPick={setSeen} />
      </p>
      <input
        ref={input}
        type="file"
        className="hidden"
        accept=".dxf,.svg,.plt,.hpgl,.hpg"
        aria-label="Drawing of its back"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) edits.setModel({ part: part.id, file, back: seen });
          e.target.value = "";
        }}
      />
    </>
  );
}
