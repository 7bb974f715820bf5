"""A part of a job that goes out, on what went out before; and the list of what a release holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from venzo.core.derive import DerivedSetup
from venzo.core.model import Document
from venzo.core.release.contents import Contents
from venzo.core.release.picking import Before, Picked, SheetShare, part_snags, parted, shares
from venzo.core.snags import Snag, Where, look
from venzo.core.stock.dialect import Dialect
from venzo.desk.jobs import Earlier


class Manifest(Document):
    """What a release holds: by setup what is in it and what it leaves out, and the names of its files.
    ``cuts``: by setup, sheet and copy what each cut is to do, by its name, as a digest; ``dialects``: by
    setup what its programs are written in; ``picked``: which part of the job it is.
    """

    job: str
    revision: int
    setups: list[Contents]
    files: list[str]
    cuts: dict[str, dict[str, dict[str, str]]] = {}
    dialects: dict[str, Dialect] = {}
    picked: Picked | None = None


ALL = Picked(which="everything")


@dataclass(frozen=True)
class Share:
    """A part of a job that is released: which cuts, what went out before, by setup, and how many programs
    each sheet has had.
    """

    picked: Picked = ALL
    before: Mapping[str, Before] = field(default_factory=dict)
    begun: Mapping[str, Mapping[tuple[str, int], int]] = field(default_factory=dict)
    earlier: Mapping[str, Sequence[Earlier]] = field(default_factory=dict)
    cut_whole: frozenset[tuple[str, str, int]] = frozenset()
    """(setup, stock line, copy) of sheets that were cut whole by programs that were not kept."""
    number: int = 0
    """Of the release that is kept; 0: it is not."""

    def of(self, d: DerivedSetup) -> tuple[DerivedSetup, list[Snag]]:
        """The setup with only what is released of it, and what is to be said of that."""
        first = not self.before.get(d.setup.id) and self.picked.which != "spoilt"
        if self.picked.whole and first and not self.cut_whole:
            return d, []
        before = self.before.get(d.setup.id, {})
        found = shares(d, self.picked, before)
        return parted(d, found, self.begun.get(d.setup.id, {})), self.snags(d, found)

    def snags(self, d: DerivedSetup, found: Sequence[SheetShare]) -> list[Snag]:
        """What is to be said of the part; on a fresh sheet nothing was let go before."""
        if self.picked.which == "spoilt":
            return part_snags(d, found, {})
        said = part_snags(d, found, self.before.get(d.setup.id, {}))
        for x in found:
            if x.now and (d.setup.id, x.sheet.sheet, x.sheet.copy_no) in self.cut_whole:
                where: Where = {
                    "setup": d.setup.id,
                    "sheet": x.sheet.sheet,
                    "sheet_copy": x.sheet.copy_no,
                }
                words = f"sheet {x.sheet.sheet} {x.sheet.copy_no + 1} is recorded as cut, with no release"
                said.append(look("release.again", f"{words}: this would cut it once more", where))
        return said
