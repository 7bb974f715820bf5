import type { ContourPlan, Part, XY } from "../../api/model";
import { LengthToken } from "../../shared/Tokens";
import { many } from "../../shared/many";
import { ringOf } from "../../table/TabsLayer";
import { nearestOnRing } from "../../table/collisions";
import type { Choose } from "./OneContour";

/** Where a contour's tabs stand and where the cutter enters, typed: X and Y from the part's lower left corner. What is
 * typed beside the edge goes to the nearest place on it. */
export function TypedPlaces({
  part,
  plan: c,
  start: at,
  chosen,
  choose,
}: {
  part: Part;
  plan: ContourPlan;
  /** Where the cut begins as it is planned. */
  start: XY | undefined;
  /** Was that said by hand? */
  chosen: boolean;
  choose: Choose;
}) {
  const tabs = c.tabs.map(([x, y]): XY => [x, y]),
    onEdge = (p: XY) => nearestOnRing(p, ringOf(part, c.contour));
  if (!tabs.length && !at) return null;
  const put = (n: number, p: XY) =>
    choose(c.contour, { tabs: tabs.map((t, i) => (i === n ? onEdge(p) : t)) });
  return (
    <details className="w-full text-small">
      <summary className="label cursor-pointer">
        {tabs.length ? `places of start and ${many(tabs.length, "tab")}` : "place of its start"}
      </summary>
      <ul>
        {at && (
          <li className="py-0.5">
            <span className="label">start</span>{" "}
            <Place
              label={`start of ${c.contour}`}
              at={at}
              house={!chosen}
              onCommit={(p) => choose(c.contour, { start: onEdge(p) })}
            />
          </li>
        )}
        {tabs.map((t, n) => (
          <li key={n} className="py-0.5">
            <span className="label">tab {n + 1}</span>{" "}
            <Place
              label={`tab ${n + 1} of ${c.contour}`}
              at={t}
              house={!c.by_hand}
              onCommit={(p) => put(n, p)}
            />
          </li>
        ))}
      </ul>
    </details>
  );
}

function Place({
  label,
  at: [x, y],
  house,
  onCommit,
}: {
  label: string;
  at: XY;
  house: boolean;
  onCommit: (p: XY) => void;
}) {
  return (
    <span className="num">
      X <LengthToken label={`X of ${label}`} mm={x} house={house} onCommit={(v) => onCommit([v, y])} /> Y{" "}
      <LengthToken label={`Y of ${label}`} mm={y} house={house} onCommit={(v) => onCommit([x, v])} />
    </span>
  );
}
