"""How fast may it run? Chip load, surface speed, power, deflection: formulas (``mechanics``), windows
(``windows``) and advice (``adviser``).

>>> from venzo.core.feeds.mechanics import chip_load, surface_speed
>>> round(surface_speed(6, 18000)), round(chip_load(5400, 18000, 2), 3)
(339, 0.15)
"""
