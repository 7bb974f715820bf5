"""Long rows of straight moves are written and read at once: the same text, and the same reading, as move by
move.
"""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from venzo.core.stock.dialect import Dialect
from venzo.formats import gcode, rs274
from venzo.formats.gcode import ToolRun, write


@st.composite
def runs(draw):
    rng = np.random.default_rng(draw(st.integers(0, 2**31)))
    n = draw(st.integers(210, 500))
    moves = np.zeros((n, 7))
    moves[:, 0] = 1.0
    moves[:, 1:4] = np.round(rng.uniform(-40, 40, (n, 3)), int(draw(st.integers(0, 5))))
    moves[:, 6] = rng.choice([900.0, 2400.0, 1234.0], n)
    still = rng.random(n) < 0.2
    moves[1:][still[1:], 1:4] = moves[:-1][still[1:], 1:4]  # moves that go nowhere
    moves[0, 0] = 0.0
    for k in rng.integers(1, n, draw(st.integers(0, 3))):
        moves[k, 0] = 0.0
    return moves


@settings(max_examples=25, deadline=None)
@given(
    moves=runs(),
    inch=st.booleans(),
    whole=st.sampled_from(["10", "10.", "10.000"]),
    spaces=st.booleans(),
    shift=st.sampled_from([0.0, 18.0]),
)
def test_written_and_read_at_once_or_one_by_one(moves, inch, whole, spaces, shift):
    dialect = Dialect(inch=inch, whole=whole, spaces=spaces)

    def text():
        return write([ToolRun(1, "ball", 18_000, [("way", moves)])], dialect, [], 10.0, shift)

    with pytest.MonkeyPatch.context() as patch:
        at_once = text()
        patch.setattr(gcode, "MANY", 10**9)
        assert at_once == text()
        fast = rs274.read(at_once, "p", dialect)
        patch.setattr(rs274._Reader, "_plain", lambda *_a: False)
        slow = rs274.read(at_once, "p", dialect)
    for a, b in zip(fast.blocks, slow.blocks, strict=True):
        assert np.array_equal(a.moves, b.moves) and a.lines == b.lines and np.array_equal(a.speed, b.speed)
