"""How long do moves really take, with axes that must accelerate?

>>> from venzo.core.motion.time import move_time
>>> round(move_time(100, 6000, 1000), 3), round(move_time(1, 6000, 1000), 4)
(1.1, 0.0632)
"""
