"""From features to toolpaths: which contour is cut by which cutter, on which side, how deep, in how many
passes.

Toolpaths are arrays of moves in the part's own frame with Z 0 at the top of the stock (``moves``).

>>> from venzo.core.cuts.profile import cutter_rings
>>> from venzo.core.geometry.contour import Contour
>>> outline = Contour.circle(0, 0, 50)
>>> [(path, _)] = cutter_rings(outline, 3.0, inside=False)
>>> round(path.length / outline.length, 6)
1.059998
"""
