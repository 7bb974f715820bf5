"""In which order are the cuts made? Precedence first, then cutter changes, then travel.

>>> from venzo.core.order.sequence import Task, sequence
>>> hole = Task((20, 20), (20, 20), "t1", False, ())
>>> outline = Task((0, 0), (0, 0), "t1", True, (1,))
>>> sequence([outline, hole], {"t1": 1})
[1, 0]
"""
