"""Is the program right? It is read back as a controller would read it and held against what was meant.

>>> import numpy as np
>>> from venzo.core.cuts.moves import LINE, RAPID, row
>>> from venzo.core.proof.compare import runs_of
>>> moves = np.array([row(RAPID, 0, 0, 5), row(LINE, 0, 0, -6), row(LINE, 80, 0, -6), row(RAPID, 80, 0, 5)])
>>> len(runs_of(moves, [18000.0] * 4, range(4)))
2
"""
