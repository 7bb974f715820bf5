"""The computation. Knows nothing of web, database or files on disk; every function here is pure.

Lengths in millimetres, feeds in mm/min, times in seconds, angles in degrees at the surface of a
module and in radians inside functions.
"""
