import type { Material } from "../api/model";
import { Pick } from "../shared/Pick";
import { Choice, NumberToken } from "../shared/Tokens";
import { ChipWindows } from "./ChipWindows";
import { MaterialForces } from "./MaterialForces";
import { FAMILIES, type Ctx, Line, TextToken } from "./shelf";

export function Materials({ lib, save, remove }: Ctx) {
  const offered = lib.known.filter((k) => !lib.material.some((m) => m.id === k.id));
  return (
    <div>
      <p className="mb-2">
        <Pick
          look="key"
          label="Add a known material"
          value=""
          placeholder="+ a material that shops meet everywhere"
          options={offered.map((m): [string, string] => [m.id, `${m.name}, ${m.density} kg/m³`])}
          onPick={(id) => {
            const k = offered.find((m) => m.id === id);
            if (k) save("material", k);
          }}
        />
      </p>
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        {lib.material.map((m: Material) => {
          const set = (f: Partial<Material>) => save("material", { ...m, ...f });
          return (
            <article key={m.id} className="border border-line bg-paper p-3" aria-label={m.name}>
              <h2 className="text-head font-semibold">
                <TextToken label="name" value={m.name} onCommit={(name) => set({ name })} />
              </h2>
              <p>
                <Choice
                  label="family"
                  value={m.family}
                  options={FAMILIES.map((f) => [f as Material["family"], f])}
                  onPick={(family) => set({ family })}
                />
                ,{" "}
                <TextToken
                  label="species, alloy or plastic"
                  value={m.sort}
                  onCommit={(sort) => set({ sort })}
                />
                ,{" "}
                <Choice
                  label="grain"
                  value={m.grained ? "yes" : "no"}
                  options={[
                    ["yes", "with grain"],
                    ["no", "no grain"],
                  ]}
                  onPick={(v) => set({ grained: v === "yes" })}
                />
              </p>
              <Line what="density">
                <NumberToken
                  label="density"
                  value={m.density}
                  unit=" kg/m³"
                  least={1}
                  onCommit={(density) => set({ density })}
                />{" "}
                {m.density_source && <span className="label">{m.density_source}</span>}
              </Line>
              <Line what="price">
                <NumberToken
                  label="price"
                  value={m.price_m2}
                  digits={2}
                  onCommit={(price_m2) => set({ price_m2 })}
                />{" "}
                {String(lib.rules[0]?.currency ?? "")} a square metre
              </Line>
              <Line what="scrap" near="recycling waste price kilogram">
                brings{" "}
                <NumberToken
                  label="price of scrap"
                  value={m.scrap_price}
                  digits={2}
                  onCommit={(scrap_price) => set({ scrap_price })}
                />{" "}
                {String(lib.rules[0]?.currency ?? "")} a kilogram; off-cuts go to{" "}
                <TextToken
                  label="where off-cuts go"
                  value={m.recycled_as}
                  onCommit={(recycled_as) => set({ recycled_as })}
                />
              </Line>
              <MaterialForces m={m} set={set} />
              <ChipWindows m={m} set={set} />
              <Line what="caution">
                <TextToken label="caution" area value={m.caution} onCommit={(caution) => set({ caution })} />
              </Line>
              <p className="mt-2 flex gap-2">
                <button
                  className="key !py-0"
                  onClick={() =>
                    save("material", {
                      ...m,
                      id: `material-${Date.now().toString(36)}`,
                      name: `${m.name}, another`,
                    })
                  }
                >
                  Copy
                </button>
                <button className="key !py-0" onClick={() => remove("material", m.id)}>
                  Remove
                </button>
              </p>
            </article>
          );
        })}
      </div>
    </div>
  );
}
