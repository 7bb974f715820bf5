"""Materials, sheets with their measured thickness, and the machines they lie on.

>>> from venzo.core.stock.sheet import Stock
>>> ply = Stock(id="s", name="18 mm", width=2440, height=1220, nominal=18, readings=(17.6, 17.5, 17.7))
>>> ply.thickness, round(ply.spread, 3)
(17.599999999999998, 0.2)
"""
