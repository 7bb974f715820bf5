"""House rules: which school the shop follows, as numbers that can be changed.

>>> from venzo.core.rules.house import HouseRules
>>> rules = HouseRules()
>>> rules.largest_step("wood", 9.525), rules.passes(19.05, 9.525)
(19.05, 2)
"""
