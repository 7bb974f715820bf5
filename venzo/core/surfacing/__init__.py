"""Surfacing spoilboards and boards: rows and passes, flatness, the spindle's tram, grids, shifts, and the
ledger of what was taken off.
"""
