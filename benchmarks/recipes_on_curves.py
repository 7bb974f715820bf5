"""How long does an edit take whose cuts follow earlier cuts? Recipes put on all outlines of the demo's first
job, then another feed.

    python -m benchmarks.recipes_on_curves

Ratios are to the recipe of one cut an outline, which follows nothing and measures nothing, in the same run.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

from venzo.core.cuts.operations import Profile, RecipeSteps
from venzo.core.edits import read_command
from venzo.core.memo import forget
from venzo.core.plan import Plan
from venzo.demo.seed import seed
from venzo.desk import jobs
from venzo.desk.library import apply_recipe
from venzo.store.store import Store

JOB = "estuary-hide-ribs-and-benches"
RECIPES = ("wood-outline", "wood-chamfer-first", "wood-round-first", "wood-rough-finish", "wood-skin")
STAGES = ("cuts", "clear-tabs", "levels", "lap", "tabs")


def took(store: Store, plan: Plan) -> float:
    """Seconds until an edited plan is answered."""
    began = time.perf_counter()
    jobs.derive(store, plan, False)
    return time.perf_counter() - began


def feeds(store: Store, plan: Plan) -> float:
    """Seconds for another feed of the outlines, the median of three."""
    setup = plan.setups[0]
    out = []
    for feed in (4100.0, 4200.0, 4300.0):
        steps = tuple(
            o.model_copy(update={"feed": feed}) if isinstance(o, Profile) and o.on == "outlines" else o
            for o in setup.operations
        )
        out.append(
            took(
                store,
                plan.model_copy(
                    update={"setups": (setup.model_copy(update={"operations": steps}), *plan.setups[1:])}
                ),
            )
        )
    return statistics.median(out)


def main() -> None:
    """Print the table."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        seed(store)
        plan = store.get(JOB).plan
        known = {r["id"]: RecipeSteps.model_validate(r) for r in store.library("recipe")}
        jobs.derive(store, plan, True)
        base = 0.0
        for name in RECIPES:
            edited = read_command(apply_recipe(store, known[name], "main")).apply(plan)
            for stage in STAGES:
                forget(stage)
            cold = took(store, edited)
            base = base or cold
            print(
                f"{known[name].name:48s} cold {cold:5.2f} s, ratio {cold / base:4.1f}; another feed"
                f" {feeds(store, edited):4.2f} s; nothing changed {took(store, edited):4.2f} s"
            )


if __name__ == "__main__":
    main()
