"""The papers of a job as one set, to be printed in one go: setup sheets, cut list, labels of the pieces."""

from __future__ import annotations

import io
from collections.abc import Sequence

from venzo.core.derive import DerivedSetup
from venzo.core.plan import Plan
from venzo.core.release.file_names import slug
from venzo.core.release.programs import ProgramFile, Stamp
from venzo.formats.cut_list_paper import cut_list_paper
from venzo.formats.part_label import part_labels, piece_labels
from venzo.formats.setup_sheet import setup_sheet, unit_of
from venzo.store.store import Store

ORDER = ("setup-sheet", "kerf-sheet", "cut-list", "labels")
"""Papers of a set in the order in which they are printed."""


def papers_of(
    store: Store, plan: Plan, derived: DerivedSetup, files: list[ProgramFile], released: bool, stamp: Stamp
) -> list[tuple[str, bytes]]:
    """Setup sheet and labels of a setup, or of the part of it that goes out; none where nothing is cut."""
    if not derived.sheets:
        return []
    base = f"{slug(plan.name)}_{slug(derived.setup.name)}"
    out = [(f"{base}_setup-sheet.pdf", setup_sheet(plan, derived, files, released, store.shapes, stamp))]
    labels = []
    if derived.setup.role is None or derived.setup.role.frees:  # pieces come off with the last turn
        labels = piece_labels(plan, derived, store.shapes, unit_of(derived.setup))
    if labels:
        out.append((f"{base}_labels.pdf", part_labels(labels)))
    return out


def cut_list_of(store: Store, plan: Plan, stamp: Stamp) -> list[tuple[str, bytes]]:
    """The job's cut list; none where it has no parts."""
    if not plan.parts:
        return []
    return [(f"{slug(plan.name)}_cut-list.pdf", cut_list_paper(plan, store.shapes, stamp))]


def one_set(papers: Sequence[tuple[str, bytes]]) -> bytes:
    """Papers as one PDF: setup sheets, cut list, labels."""
    from pypdf import PdfReader, PdfWriter  # slow to import: only where papers are asked for

    out = PdfWriter()

    def place(name: str) -> int:
        return next((i for i, word in enumerate(ORDER) if name.endswith(f"{word}.pdf")), len(ORDER))

    for name, body in sorted(papers, key=lambda p: place(p[0])):
        if name.endswith(".pdf"):
            out.append(PdfReader(io.BytesIO(body)), name.removesuffix(".pdf"))
    found = io.BytesIO()
    out.write(found)
    return found.getvalue()
