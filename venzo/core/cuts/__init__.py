"""From features to toolpaths: which contour is cut by which cutter, on which side, how deep, in how many
passes.

Toolpaths are arrays of moves in the part's own frame with Z 0 at the top of the stock (``moves``).
"""
