"""How fast may it run? Chip load, surface speed, power, deflection: formulas (``mechanics``), windows
(``windows``) and advice (``adviser``).
"""
