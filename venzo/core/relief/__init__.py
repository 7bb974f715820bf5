"""Reliefs: surfaces set in a block, roughed and finished with cutters that never go into them.

What lives here: the surface and its faults (``mesh``), how it sits in the block (``block``), the cutter's end
(``tip``), where a cutter that is let down on the surface comes to rest (``drop``), ways in plan
(``patterns``), ways that follow the surface (``rolling``), roughing and finishing (``roughing``,
``finishing``), what is left standing (``left_on``), and surfaces made here of forms
(``surface_forms``, ``formed_mesh``). Reading models and pictures lives in ``formats``.

>>> import numpy as np
>>> from venzo.core.relief.drop import Ground
>>> from venzo.core.relief.tip import Tip
>>> step = np.array([[[0, -9, 0], [20, -9, 0], [20, 9, 0]], [[0, -9, 0], [20, 9, 0], [0, 9, 0]]], float)
>>> Ground(np.vstack([step, step - (20, 0, 4)])).rest(np.array([[-1.0, 0.0]]), Tip.ball(6)).round(3).tolist()
[-0.172]
"""
