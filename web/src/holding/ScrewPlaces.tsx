import type { Edits } from "../api/edits";
import type { Screw, Setup } from "../api/model";
import { LengthToken } from "../shared/Tokens";
import { many } from "../shared/many";

/** Where the screws and nails of a sheet stand, typed: X and Y from the sheet's lower left corner. */
export function ScrewPlaces({ setup, edits, screws }: { setup: Setup; edits: Edits; screws: Screw[] }) {
  const change = (id: string, fields: { x: number } | { y: number }) =>
    edits.run({ kind: "change-screws", setup: setup.id, change: [{ id, fields }] });
  return (
    <details className="text-small">
      <summary className="label cursor-pointer">{`places of ${many(screws.length, "screw")}`}</summary>
      <ul>
        {screws.map((s, n) => (
          <li key={s.id} className="py-0.5">
            <span className="label">
              {s.kind} {n + 1}
            </span>{" "}
            <span className="num">
              X{" "}
              <LengthToken label={`X of ${s.kind} ${n + 1}`} mm={s.x} onCommit={(x) => change(s.id, { x })} />{" "}
              Y{" "}
              <LengthToken label={`Y of ${s.kind} ${n + 1}`} mm={s.y} onCommit={(y) => change(s.id, { y })} />
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
