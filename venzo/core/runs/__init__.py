"""What really happened at the machine: records that are only ever added to, and what they come to.

Wear of cutters, pieces made and what went into the spoilboard are sums over the records; a mistake is taken
back by a record of its own, and nothing is changed or lost.

>>> from venzo.core.runs.records import Renewed, Worn
>>> from venzo.core.runs.sums import standing, wear
>>> kept = [Worn(cutter="up-6", metres=80), Renewed(cutter="up-6"), Worn(cutter="up-6", metres=5)]
>>> wear(standing(list(enumerate(kept, 1))))
{'up-6': 5.0}
"""
