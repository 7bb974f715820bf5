import { asSteps } from "../../api/changes";
import type { Edits } from "../../api/edits";
import type { Command, ContourPlan, Operation, Part, Setup } from "../../api/model";
import { Pick } from "../../shared/Pick";
import { InHand, Of } from "./InHand";
import { suits } from "./stepWords";

type Fields = Partial<Omit<Extract<Command, { kind: "change-contours" }>, "kind" | "contours">>;

/** Contours that are chosen, of one part, changed together in one edit. */
export function ContoursInHand({
  part,
  setup,
  edits,
  chosen,
  house,
  onDone,
}: {
  part: Part;
  setup: Setup;
  edits: Edits;
  chosen: ContourPlan[];
  /** The steps that hold for a kind of feature of this part. */
  house: (on: ContourPlan["on"]) => Operation[];
  onDone: () => void;
}) {
  if (!chosen.length) return null;
  const change = (fields: Fields) =>
    edits.run({
      kind: "change-contours",
      contours: chosen.map((c) => ({ part: part.id, contour: c.contour })),
      ...fields,
    });
  const kinds = [...new Set(chosen.map((c) => c.on))],
    last = chosen.map((c) => c.steps.at(-1)?.kind ?? "profile"),
    cutters = setup.cutters.filter((k) => last.every((kind) => suits(kind, k))),
    cutter = new Set(chosen.map((c) => c.cutter)).size === 1 ? chosen[0].cutter : "",
    tabbed = chosen.every((c) => ["outlines", "holes", "round holes"].includes(c.on)),
    tabs = Math.max(...chosen.map((c) => c.tabs.length)),
    left = chosen.every((c) => c.omitted);
  return (
    <InHand count={chosen.length} word="contour" onDone={onDone}>
      <p className="mt-1 flex flex-wrap items-baseline gap-x-3">
        <Of what="cutter">
          <Pick
            look="token"
            label="cutter of the chosen"
            value={cutter}
            placeholder={cutters.length ? "several" : "none suits all"}
            options={cutters.map((k): [string, string] => [k.id, k.name])}
            onPick={(id) => change({ cutter: id })}
          />
        </Of>
        {tabbed && (
          <Of what="tabs on each">
            <Pick
              look="token"
              label="tabs on each of the chosen"
              value={chosen.every((c) => c.tabs.length === tabs) ? `${tabs}` : ""}
              placeholder="several"
              options={Array.from({ length: 13 }, (_, n): [string, string] => [`${n}`, n ? `${n}` : "none"])}
              onPick={(n) => change({ tab_count: Number(n), automatic: ["tabs"] })}
            />
          </Of>
        )}
      </p>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <button className="key !py-0" onClick={() => change({ omit: !left })}>
          {left ? "Cut them again" : "Leave out"}
        </button>
        {kinds.length === 1 && house(kinds[0]).length > 0 && (
          <button
            className="key !py-0"
            onClick={() => change({ on: kinds[0], steps: asSteps(house(kinds[0])) })}
          >
            Steps of their own
          </button>
        )}
        <button
          className="key !py-0"
          onClick={() =>
            change({ omit: false, automatic: ["cutter", "tabs", "tab_count", "start", "steps", "line"] })
          }
        >
          All automatic
        </button>
      </div>
    </InHand>
  );
}
