"""Hot kernels compiled ahead of their first use."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

import numpy as np


def load_kernels() -> None:
    """Load the compiler and the modules of kernels that planning a job asks for; nothing is compiled."""
    from venzo.core.body import kernel, slope_kernel  # noqa: F401
    from venzo.core.geometry import fit_kernel, nearest_kernel  # noqa: F401
    from venzo.core.holding import tabs_kernel  # noqa: F401
    from venzo.core.order import sequence_kernel  # noqa: F401
    from venzo.core.proof import compare_kernel  # noqa: F401


def compile_kernels() -> None:
    """Compile all kernels into their cache by a tiny run of each, in as many processes as there are cores: a
    compiler works on one.
    """
    spawned = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(min(os.cpu_count() or 1, len(ALL)), mp_context=spawned) as pool:
        for done in [pool.submit(portion) for portion in ALL]:
            done.result()


def warm_nesting() -> None:
    """Load what a search for layouts runs, here and now, so that its first step starts at once."""
    _nest_any_turn()
    _nest_rectangles()
    _lattice()


def _nest_any_turn() -> None:
    square = [[0, 0], [50, 0], [50, 50], [0, 50]]
    part = {"id": "a", "outline": square, "quantity": 4, "rotations": [0, 45]}
    other = {"id": "b", "outline": [[0, 0], [60, 0], [0, 60]], "quantity": 2, "rotations": [0]}
    sheet = {"id": "s", "width": 400, "height": 120}
    _search({"sheets": [sheet], "parts": [part, other], "spacing": 5}, 6)


def _nest_rectangles() -> None:
    square = [[0, 0], [50, 0], [50, 50], [0, 50]]
    plain = {
        "sheets": [{"id": "s", "width": 200, "height": 90}],
        "parts": [{"id": "a", "outline": square, "quantity": 5, "rotations": [0, 90]}],
        "spacing": 5,
    }
    for guillotine in (False, True):
        _search({**plain, "guillotine": guillotine}, 2)


def _search(problem: dict[str, object], steps: int) -> None:
    from venzo.core.nesting.engine import Search
    from venzo.core.nesting.problem import NestProblem

    search = Search(NestProblem.model_validate(problem))
    while search.steps < steps and search.step():
        pass


def _lattice() -> None:
    from venzo.core.nesting import lattice

    lattice.warm()


def _order() -> None:
    from venzo.core.order import sequence_kernel

    sequence_kernel.warm()
    spots = np.array([(0.0, 0.0), (2.0, 0.0), (1.0, 0.0), (3.0, 0.0)])
    sequence_kernel.improve(spots, spots, np.arange(4), (0.0, 0.0), None, [[], [], [], []], 2)
    none, index = np.zeros(4, dtype=np.int64), np.zeros(5, dtype=np.int64)
    sequence_kernel.greedy(spots, spots, none, none > 0, none.copy(), index, none, (0.0, 0.0), none.copy())


def _geometry() -> None:
    from venzo.core.geometry import fit_kernel, nearest_kernel
    from venzo.core.geometry.fit import fit
    from venzo.core.holding import tabs_kernel

    fit_kernel.warm()
    nearest_kernel.warm()
    tabs_kernel.warm()
    fit(np.array([(0.0, 0.0), (5.0, 1.0), (10.0, 0.0), (10.0, 8.0)]))


def _relief() -> None:
    from venzo.core.relief import aside_kernel, rolling

    rolling.warm()
    aside_kernel.warm()


def _carving() -> None:
    from venzo.core.carving import medial_kernel, sweep

    medial_kernel.warm()
    sweep.warm()


def _body() -> None:
    from venzo.core.body import engagement, picture
    from venzo.core.proof import compare_kernel

    engagement.warm()
    picture.warm()
    compare_kernel.warm()


ALL: tuple[Callable[[], None], ...] = (warm_nesting, _body, _order, _relief, _geometry, _carving)
"""What is compiled by itself, longest first; what uses the same kernels is one portion, since two processes
would both compile them and write into one cache.
"""
