"""V-carving: the middle line of letters and ornaments, how deep a pointed bit goes along it, inlays, folds,
and the carved surface.

>>> import math
>>> from venzo.core.carving.bit import Bit
>>> bit = Bit(60, 20)
>>> round(float(bit.depth(5 * math.tan(math.radians(30)))), 6)
5.0
"""
