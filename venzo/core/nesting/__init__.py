"""Where does each piece lie on which sheet?

``problem`` states it (CONTRACT.md), ``engine`` searches, ``raster`` and ``slide`` answer its two hot
questions, ``verify`` is the independent judge that every layout passes before anyone sees it.

>>> from venzo.core.nesting.engine import Search
>>> from venzo.core.nesting.problem import NestProblem
>>> sheet = {"id": "a", "width": 100, "height": 50, "margin": 0}
>>> part = {"id": "p", "outline": [[0, 0], [40, 0], [40, 20], [0, 20]], "quantity": 4}
>>> search = Search(NestProblem.model_validate({"sheets": [sheet], "parts": [part], "spacing": 5}))
>>> moved = search.step()
>>> sorted((p.x, p.y) for p in search.best.placements)
[(0.0, 0.0), (0.0, 25.0), (45.0, 0.0), (45.0, 25.0)]
"""
