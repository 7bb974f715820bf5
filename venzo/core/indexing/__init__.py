"""Stock longer than the table: it is moved along in positions, and each cut is made where it can be reached.

``positions``: the positions and how the stock finds them; ``reach``: what can be cut at each; ``portions``:
a cut's moves in lengths; ``assigned``: which cut is made where; ``seams``: how well lengths meet; ``pins``:
what it is dropped on; ``fewest_positions``: those that split least; ``index_snags``: what is to be said.

>>> from venzo.core.indexing.positions import Indexing
>>> Indexing(axis="x", moved=(1200.0, 2400.0)).count
3
"""
