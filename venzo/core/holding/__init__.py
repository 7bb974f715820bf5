"""What holds the pieces: tabs and where they go.

>>> from venzo.core.holding.strength import friction_force, shear_force, suction, tab_section
>>> round(friction_force(suction(100 * 100, 50), 0.4)), shear_force(tab_section(6, 4), 5.0)
(200, 120.0)
"""
