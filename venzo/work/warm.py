"""Hot kernels compiled ahead of their first use."""

from __future__ import annotations

import numpy as np


def load_kernels() -> None:
    """Load the compiler and the modules of kernels that planning a job asks for; nothing is compiled."""
    from venzo.core.body import kernel, slope_kernel  # noqa: F401
    from venzo.core.geometry import fit_kernel, nearest_kernel  # noqa: F401
    from venzo.core.holding import tabs_kernel  # noqa: F401
    from venzo.core.order import sequence_kernel  # noqa: F401
    from venzo.core.proof import compare_kernel  # noqa: F401


def warm_kernels() -> None:
    """Compile the kernels of nesting, refitting and the stock body into their cache by a tiny run of each."""
    from venzo.core.body import engagement, picture
    from venzo.core.carving import medial_kernel, sweep
    from venzo.core.geometry import fit_kernel, nearest_kernel
    from venzo.core.geometry.fit import fit
    from venzo.core.holding import tabs_kernel
    from venzo.core.nesting import lattice
    from venzo.core.nesting.engine import Search
    from venzo.core.nesting.problem import NestProblem
    from venzo.core.order import sequence_kernel
    from venzo.core.proof import compare_kernel
    from venzo.core.relief import aside_kernel, rolling

    rolling.warm()
    aside_kernel.warm()
    fit_kernel.warm()
    nearest_kernel.warm()
    tabs_kernel.warm()
    lattice.warm()
    compare_kernel.warm()
    medial_kernel.warm()
    sweep.warm()
    engagement.warm()
    picture.warm()
    sequence_kernel.warm()
    spots = np.array([(0.0, 0.0), (2.0, 0.0), (1.0, 0.0), (3.0, 0.0)])
    sequence_kernel.improve(spots, spots, np.arange(4), (0.0, 0.0), None, [[], [], [], []], 2)
    none, index = np.zeros(4, dtype=np.int64), np.zeros(5, dtype=np.int64)
    sequence_kernel.greedy(spots, spots, none, none > 0, none.copy(), index, none, (0.0, 0.0), none.copy())
    fit(np.array([(0.0, 0.0), (5.0, 1.0), (10.0, 0.0), (10.0, 8.0)]))
    square = [[0, 0], [50, 0], [50, 50], [0, 50]]
    part = {"id": "a", "outline": square, "quantity": 4, "rotations": [0, 45]}
    other = {"id": "b", "outline": [[0, 0], [60, 0], [0, 60]], "quantity": 2, "rotations": [0]}
    search = Search(
        NestProblem.model_validate(
            {"sheets": [{"id": "s", "width": 400, "height": 120}], "parts": [part, other], "spacing": 5}
        )
    )
    while search.steps < 6 and search.step():
        pass
    plain = {
        "sheets": [{"id": "s", "width": 200, "height": 90}],
        "parts": [{**part, "quantity": 5, "rotations": [0, 90]}],
        "spacing": 5,
    }
    for guillotine in (False, True):
        search = Search(NestProblem.model_validate({**plain, "guillotine": guillotine}))
        while search.steps < 2 and search.step():
            pass
