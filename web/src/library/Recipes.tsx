import type { LibraryRecipe } from "../api/model";
import { length, useUnit } from "../shared/lengths";
import { FEATURE } from "../stations/cuts/stepWords";
import { type Ctx, TextToken } from "./shelf";

export function Recipes({ lib, save, remove }: Ctx) {
  const { unit } = useUnit();
  const names = new Map(lib.cutter.map((c) => [c.id, c.name]));
  return (
    <div>
      <p className="label mb-2">
        Named sequences for a kind of feature. They are put on a setup, a part or a contour at Cuts & hold,
        and kept from there: "keep as recipe" makes the next version.
      </p>
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        {lib.recipe.map((r: LibraryRecipe) => (
          <article key={r.id} className="border border-line bg-paper p-3" aria-label={r.name}>
            <h2 className="text-head font-semibold">
              <TextToken label="name" value={r.name} onCommit={(name) => save("recipe", { ...r, name })} />
            </h2>
            <p className="label">
              {FEATURE[r.on]}, {r.family ?? "any material"}, version <span className="num">{r.version}</span>,
              under {r.rules || "house rules"}
            </p>
            <ol className="list-decimal pl-5">
              {r.steps.map((s) => (
                <li key={s.id} className="py-0.5">
                  {s.kind} with {names.get(s.cutter) ?? s.cutter}
                  {[
                    s.direction,
                    s.side_allowance ? `leaves ${length(s.side_allowance, unit)} on the wall` : "",
                    s.floor_allowance ? `a skin of ${length(s.floor_allowance, unit)}` : "",
                    s.depth ? `to ${length(s.depth, unit)}` : "",
                    s.one_pass ? "in one pass" : "",
                    s.rest ? "the rest only" : "",
                    s.step_over ? `step-over ${Math.round(100 * s.step_over)} %` : "",
                    s.feed_share !== 1 ? `at ${Math.round(100 * s.feed_share)} % of the feed` : "",
                    s.lead && s.lead !== "none" ? `lead-in ${s.lead}` : "",
                  ]
                    .filter(Boolean)
                    .map((t) => `, ${t}`)
                    .join("")}
                </li>
              ))}
            </ol>
            <p className="mt-1">
              Why: <TextToken label="why" value={r.why} onCommit={(why) => save("recipe", { ...r, why })} />
            </p>
            <p className="mt-2">
              <button className="key !py-0" onClick={() => remove("recipe", r.id)}>
                Remove
              </button>
            </p>
          </article>
        ))}
      </div>
    </div>
  );
}
