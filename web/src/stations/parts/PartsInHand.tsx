import { useState } from "react";

import type { Edits } from "../../api/edits";
import type { Command, Part, Setup } from "../../api/model";
import { Pick } from "../../shared/Pick";
import { many } from "../../shared/many";

type Fields = Partial<Omit<Extract<Command, { kind: "change-parts" }>, "kind" | "parts">>;

/** Several parts that are chosen, changed together in one edit. */
export function PartsInHand({
  parts,
  setup,
  edits,
  onDone,
}: {
  parts: Part[];
  setup: Setup;
  edits: Edits;
  onDone: () => void;
}) {
  const [group, setGroup] = useState("");
  const change = (fields: Fields) =>
    edits.run({ kind: "change-parts", parts: parts.map((p) => p.id), ...fields });
  const all = (of: (p: Part) => unknown) => (new Set(parts.map(of)).size === 1 ? of(parts[0]) : undefined);
  const cutters = setup.cutters.filter((c) => c.feeds[setup.material.family]);
  return (
    <section aria-label="Chosen parts">
      <h2 className="text-figure font-semibold">{many(parts.length, "part")} chosen</h2>
      <p className="label">{parts.map((p) => p.name).join(", ")}</p>
      <div className="mt-2 flex flex-wrap gap-1.5">
        <button className="key" onClick={() => change({ more: 1 })}>
          One more of each
        </button>
        <button
          className="key"
          disabled={parts.some((p) => p.quantity === 0)}
          onClick={() => change({ more: -1 })}
        >
          One less
        </button>
        <button
          className="key"
          onClick={() => {
            change({ remove: true });
            onDone();
          }}
        >
          Remove
        </button>
      </div>
      <dl className="mt-2 grid grid-cols-[1fr_auto] items-baseline gap-x-3 gap-y-1">
        <dt className="label">grain</dt>
        <dd>
          <Pick
            label="grain of all"
            value={String(all((p) => p.grain) ?? (all((p) => p.grain) === null ? "none" : ""))}
            placeholder="several"
            options={[
              ["none", "any way"],
              ["0", "along X of the drawing"],
              ["90", "along Y of the drawing"],
            ]}
            onPick={(v) => change({ grain: v === "none" ? "none" : v === "0" ? 0 : 90 })}
          />
        </dd>
        <dt className="label">may be turned over</dt>
        <dd>
          <Pick
            label="turning over of all"
            value={String(all((p) => p.mirror) ?? "")}
            placeholder="several"
            options={[
              ["true", "yes"],
              ["false", "no"],
            ]}
            onPick={(v) => change({ mirror: v === "true" })}
          />
        </dd>
        <dt className="label">tabs on each outline</dt>
        <dd>
          <Pick
            label="tabs of all"
            value=""
            placeholder="as they are"
            options={["0", "2", "3", "4", "6", "8"].map((n): [string, string] => [
              n,
              n === "0" ? "no tabs" : many(Number(n), "tab"),
            ])}
            onPick={(v) => change({ tab_count: Number(v) })}
          />
        </dd>
        <dt className="label">cutter of each outline</dt>
        <dd>
          <Pick
            label="cutter of all"
            value=""
            placeholder="as it is"
            options={cutters.map((c): [string, string] => [c.id, c.name])}
            onPick={(cutter) => change({ cutter })}
          />
        </dd>
      </dl>
      <form
        className="mt-2 flex items-baseline gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          change({ group: group.trim() });
        }}
      >
        <label className="label min-w-0 flex-1">
          keep together on a sheet, as{" "}
          <input
            className="field w-28 !font-sans"
            value={group}
            maxLength={80}
            aria-label="Group of all"
            onChange={(e) => setGroup(e.target.value)}
          />
        </label>
        <button className="key !py-0">Set</button>
      </form>
    </section>
  );
}
