import { useState } from "react";

import type { Cutter, Machine } from "../api/model";
import { Save } from "../shared/Save";
import { Choice, LengthToken } from "../shared/Tokens";

const PEN = "";

/** The program that marks the numbered grid on the table, from machine home. */
export function GridProgram({ m, cutters }: { m: Machine; cutters: Cutter[] }) {
  const [cutter, setCutter] = useState(PEN),
    [depth, setDepth] = useState(0.3);
  const fit = cutters.filter((c) => c.kind === "v-bit" && c.feeds.wood);
  return (
    <span className="mt-1 flex flex-wrap items-baseline gap-1.5">
      <span>
        marked by{" "}
        <Choice
          label="what marks the grid"
          value={cutter}
          options={[
            [PEN, "a sprung pen"],
            ...fit.map((c): [string, string] => [c.id, `T${c.number} ${c.name}`]),
          ]}
          onPick={setCutter}
        />
        , {cutter ? "lines" : "pressed down"}{" "}
        <LengthToken label="depth of the grid" mm={depth} onCommit={setDepth} />
        {cutter ? " deep" : ""}
      </span>
      <Save
        address={`/library/machine/${m.id}/grid?depth=${depth}${cutter ? `&cutter=${cutter}` : ""}`}
        words="Program that marks it"
      />
    </span>
  );
}
