"""The stock as a body: how high it still stands, place by place, and how much of a cutter it meets when a cut
comes by.

Heights live in ``field``, compiled loops in ``kernel``, measuring in ``engagement``. Judgements at 0.02 mm
(gouge, through, tabs) stay exact geometry elsewhere; nothing here replaces them.

>>> from venzo.core.body.field import Box, StockBody
>>> from venzo.core.cuts.moves import LINE, RAPID, row
>>> from venzo.core.tooling.cutter import Cutter
>>> import numpy as np
>>> mill = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=20)
>>> body = StockBody(Box(0, 0, 60, 20), 0.1)
>>> body.cut(np.array([row(RAPID, 10, 10, 3), row(LINE, 10, 10, -5), row(LINE, 50, 10, -5)]), mill)
>>> body.heights(np.array([(30.0, 10.0), (30.0, 18.0)])).tolist()
[-5.0, 0.0]
"""
