"""What can hurt somebody at a kerf table: the usual cautions; local codes, the makers' instructions and
trained people come first.
"""

from __future__ import annotations

from venzo.core.plan import Setup

FIRST = "Local codes, the makers' instructions and trained people come first. Never leave a running table."


def cautions(setup: Setup) -> list[str]:
    """The cautions for a setup's process and material, one sentence each."""
    table = setup.machine.head
    if table is None:
        return []
    material = f"{setup.material.name} {setup.material.sort}".lower()
    out = []
    if table.process == "plasma":
        out += [
            "Arc: eye and skin protection for everyone in sight of it.",
            "Fire watch: nothing that burns near or under the table, during the cut and half an hour after.",
            "Fumes: extraction or water on; galvanised, painted or coated sheet gives off poison: strip it,"
            " or do not cut it.",
        ]
        if table.under == "water" and ("alumin" in material or setup.material.family == "aluminium"):
            out.append(
                "Aluminium over water makes hydrogen, which explodes under the plate: drain or aerate the"
                " bath as the table's maker says."
            )
    else:
        out += [
            "The jet cuts flesh and bone and carries dirt into the wound: guards closed, no hand near it; a"
            " jet wound is for the hospital at once, however small it looks.",
            "Ear protection; abrasive garnet dust off the eyes.",
        ]
    if "pvc" in material or "vinyl" in material:
        out.append("PVC never: it gives off hydrogen chloride and worse. Do not cut this sheet by an arc.")
    out.append("Edges and drops are sharp and, after an arc, hot: gloves, and let them cool.")
    if setup.material.caution:
        out.append(setup.material.caution)
    return [*out, FIRST]
