"""Contours made of lines and arcs, and the questions asked of them: loops, offsets, arcs, regions.

Nothing here knows of parts, cutters or sheets.
"""
