"""Contours made of lines and arcs, and the questions asked of them: loops, offsets, arcs, regions.

Nothing here knows of parts, cutters or sheets.

>>> from venzo.core.geometry.contour import Contour
>>> from venzo.core.geometry.offset import offset
>>> [ring] = offset([Contour.circle(0, 0, 10)], 3)
>>> round(ring.contour.bbox[2], 3), len(ring.contour.vertices)
(13.0, 2)
"""
