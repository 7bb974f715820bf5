"""Cutters: what the shop owns and what each can do in which family of material.

>>> from venzo.core.tooling.cutter import Cutter
>>> ball = Cutter(id="b", number=2, name="ball", kind="ball", diameter=6, cutting_length=20)
>>> ball.radius_at(0.0), ball.radius_at(3.0)
(0.0, 3.0)
"""
