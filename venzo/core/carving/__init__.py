"""V-carving: the middle line of letters and ornaments, how deep a pointed bit goes along it, inlays, folds,
and the carved surface.
"""
