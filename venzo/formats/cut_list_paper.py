"""The cut list on paper: every part with its pieces, size, material and orders, to be ticked off."""

from __future__ import annotations

from collections.abc import Mapping

from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.release.programs import Stamp
from venzo.core.voice import counted, inches, thickness
from venzo.formats.paper import Paper

CAUTION = (
    "Check sizes against the drawing before cutting. Local codes and the makers' instructions come first."
)


def cut_list_paper(plan: Plan, shapes: Mapping[str, Shape], stamp: Stamp) -> bytes:
    """PDF bytes: by setup a line a part, in the unit of its machine's programs."""
    paper = Paper(f"{plan.name}: cut list", [CAUTION])
    orders = {o.id: o.name for o in plan.orders}
    paper.begin(plan.name, f"cut list, {stamp.words()}", ", ".join(orders.values()))
    for setup in plan.setups:
        parts = plan.parts_of(setup.id)
        pieces = sum(p.quantity for p in parts)
        paper.step(f"{setup.name} on {setup.machine.name}: {counted(pieces, 'piece')}")
        for p in parts:
            if not p.quantity:
                continue
            lines = [x for x in p.lines if x.quantity]
            wanted = [f"{x.quantity} for {orders.get(x.order, x.order)}" for x in lines]
            several = f" ({', '.join(wanted)})" if len(wanted) > 1 else ""
            note = f"; {p.note}" if p.note else ""
            paper.tick(f"{p.quantity} x {p.name}: {_size(setup, shapes[p.shape])}{several}{note}")
    return paper.finish()


def _size(setup: Setup, shape: Shape) -> str:
    w, h = shape.size
    inch = setup.machine.dialect.inch
    flat = f"{inches(w)} x {inches(h)} in" if inch else f"{w:.1f} x {h:.1f} mm"
    thick = next((thickness(s.thickness, "in" if inch else "mm") for s in setup.stock), "")
    return flat + (f", {thick}" if thick else "")
