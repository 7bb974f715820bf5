import { useState } from "react";

import { asSteps } from "../../api/changes";
import { call } from "../../api/client";
import type { Edits } from "../../api/edits";
import type { On, Operation, Setup } from "../../api/model";
import { useLibrary } from "../../api/queries";
import { Pick } from "../../shared/Pick";
import { focusHere } from "../../shared/keys";

/** Which recipe the steps came from, in what they differ, and the others that fit. */
export function RecipeLine({
  on,
  setup,
  edits,
  steps,
  target,
  current,
  differs,
}: {
  on: On;
  setup: Setup;
  edits: Edits;
  steps: Operation[];
  target: Record<string, string>;
  current?: string;
  differs?: string[];
}) {
  const library = useLibrary();
  const [naming, setNaming] = useState<string | null>(null),
    [wrong, setWrong] = useState("");
  const fitting =
    library.data?.recipe.filter((r) => r.on === on && (!r.family || r.family === setup.material.family)) ??
    [];
  const apply = (id: string) => {
    const recipe = fitting.find((r) => r.id === id);
    if (!recipe) return;
    const needed = new Set(recipe.steps.flatMap((s) => [s.cutter, s.bowl ?? ""]));
    edits.run({
      kind: "set-steps",
      ...target,
      on,
      recipe: { ...recipe, steps: asSteps(recipe.steps) },
      cutters: library.data!.cutter.filter((c) => needed.has(c.id)).map(({ silhouette: _s, ...c }) => c),
    });
  };
  const keep = async () => {
    try {
      const id = `${setup.material.family}-${
        (naming ?? "")
          .toLowerCase()
          .replace(/[^a-z0-9]+/g, "-")
          .replace(/^-|-$/g, "") || "own"
      }`;
      await call("/library/recipe", {
        method: "PUT",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({
          id,
          name: naming,
          on,
          family: setup.material.family,
          steps,
          why: "kept from a job",
        }),
      });
      setNaming(null);
      setWrong("");
      library.refetch();
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <div className="text-small">
      <p className="flex flex-wrap items-baseline gap-x-2">
        <span className="text-quiet">recipe</span>
        <Pick
          look="token"
          className="max-w-[15rem]"
          label={`Recipe for ${on}`}
          placeholder={current ?? "steps by house rule"}
          value=""
          options={fitting.map((r): [string, string] => [r.id, `${r.name} (version ${r.version})`])}
          onPick={apply}
        />
        {steps.length > 0 && naming === null && (
          <button className="underline decoration-dotted" onClick={() => setNaming(current ?? "")}>
            keep as recipe
          </button>
        )}
      </p>
      {naming !== null && (
        <form
          className="mt-1 flex gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <input
            className="field min-w-0 flex-1 !font-sans"
            ref={focusHere}
            required
            maxLength={100}
            aria-label="Name of the recipe"
            placeholder="name of the recipe"
            value={naming}
            onChange={(e) => setNaming(e.target.value)}
          />
          <button className="key !py-0">Keep</button>
          <button type="button" className="key !py-0" onClick={() => setNaming(null)}>
            No
          </button>
        </form>
      )}
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      {differs && differs.length > 0 && (
        <p className="text-look">Differs from the recipe: {differs.join("; ")}.</p>
      )}
    </div>
  );
}
