import { useState } from "react";

import { call } from "../../api/client";
import type { Edits } from "../../api/edits";
import type { Setup, Stock, StockTyped } from "../../api/model";
import { useUnit } from "../../shared/lengths";

/** A sheet typed in a line: 14 x 12 x 0.6 oak. */
export function TypedStock({ setup, edits }: { setup: Setup; edits: Edits }) {
  const { unit } = useUnit();
  const [text, setText] = useState(""),
    [wrong, setWrong] = useState("");
  const take = async () => {
    if (!text.trim()) return;
    try {
      const q = new URLSearchParams({ text, unit });
      const typed = await call<StockTyped>(`/stock/typed?${q}`);
      const grain = setup.material.grained ? (typed.width >= typed.height ? 0 : 90) : null;
      const { width, height, quantity } = typed;
      edits.run({
        kind: "set-stock",
        setup: setup.id,
        stock: {
          id: `own-${Date.now().toString(36)}`,
          name: typed.name || `${setup.material.name}, typed`,
          nominal: typed.thickness,
          margin: Math.min(10, Math.min(width, height) / 10),
          ...{ width, height, quantity, grain },
        } as Stock,
      });
      setText("");
      setWrong("");
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <label className="mt-2 block">
      <span className="label">another sheet: width x height x thickness, name</span>
      <input
        className="field w-full !font-sans"
        aria-label="another sheet, in a line"
        aria-invalid={!!wrong}
        placeholder={unit === "mm" ? "600 x 400 x 18 birch offcut" : "14 x 12 x 0.6 oak"}
        maxLength={200}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={take}
      />
      {wrong && (
        <span role="alert" className="text-fine text-stop">
          {wrong}
        </span>
      )}
    </label>
  );
}
