"""Surfacing spoilboards and boards: rows and passes, flatness, the spindle's tram, grids, shifts, and the
ledger of what was taken off.

>>> from venzo.core.surfacing.rows import row_count
>>> row_count(635, 50.8, 0.4 * 50.8)
30
"""
