"""Rectangles against known optima and against the registry package rectpack (Apache licence), all its
packers, orders and bin rules.

Sources: the lowest-order perfect squared square, side 112 (Duijvestijn 1978), its squares quoted from memory
and their areas added up here; dissections are drawn at random, so that a waste-free layout is known to exist.
"""

import random
from collections import Counter

import pytest
import rectpack

from benchmarks.check_layout import check
from tests.conftest import MANY
from venzo.core.nesting.engine import Search
from venzo.core.nesting.problem import NestProblem

SQUARES = [50, 35, 27, 8, 19, 15, 17, 11, 6, 24, 29, 25, 9, 2, 7, 18, 16, 42, 4, 37, 33]


def solve(sizes, width, height, quantity, steps, seed=1):
    parts = [
        {"id": f"r{i}", "outline": [[0, 0], [w, 0], [w, h], [0, h]], "quantity": n, "rotations": [0, 90]}
        for i, ((w, h), n) in enumerate(Counter(sizes).items())
    ]
    problem = {
        "sheets": [{"id": "s", "width": width, "height": height, "quantity": quantity}],
        "parts": parts,
        "spacing": 0,
    }
    search = Search(NestProblem.model_validate(problem), seed)
    while search.steps < steps and search.step():
        pass
    result = search.best.to_json()
    faults, figures = check(problem, result)
    assert faults == []
    left = {p["id"]: p["quantity"] for p in parts}
    size = {f"r{i}": w * h for i, (w, h) in enumerate(Counter(sizes))}
    for pl in result["placements"]:
        left[pl["part"]] -= 1
    placed = sum(w * h for w, h in sizes) - sum(n * size[p] for p, n in left.items())
    last = min(figures["used_length"].values())
    return (-placed, figures["sheets"], round(last, 3)), search.steps


def test_the_perfect_squared_square_is_solved():
    assert sum(a * a for a in SQUARES) == 12_544 == 112**2
    (placed, sheets, last), steps = solve([(a, a) for a in SQUARES], 112, 112, 1, 200)
    assert (placed, sheets, last) == (-12_544, 1, 112) and steps <= 50  # a step is about a tenth of a second
    assert solve([(a, a) for a in SQUARES], 400, 112, 1, 200)[0][2] == pytest.approx(
        112, abs=1e-6
    )  # as a strip too


def dissection(rng, width=1000, height=600):
    """A rectangle cut by random straight cuts into 15 to 25."""
    rects, n = [(width, height)], rng.randint(15, 25)
    while len(rects) < n:
        w, h = rects.pop(
            max(range(len(rects)), key=lambda k: rects[k][0] * rects[k][1] * rng.uniform(0.3, 1))
        )
        share = rng.uniform(0.25, 0.75)
        if rng.random() < w / (w + h):
            rects += [(round(w * share), h), (w - round(w * share), h)]
        else:
            rects += [(w, round(h * share)), (w, h - round(h * share))]
    return rects


@pytest.mark.parametrize("seed", range(2 if MANY == 1 else 10))
def test_random_dissections_are_put_together_again(seed):
    (placed, _sheets, _last), _steps = solve(dissection(random.Random(seed)), 1000, 600, 1, 60)
    assert -placed >= 0.98 * 600_000


def best_of_rectpack(sizes, width, height, quantity):
    """Most area placed, then fewest bins, then the least used bin's length, over every packer, order and bin
    rule of the package.
    """
    best = None
    packers = [
        a
        for n, a in vars(rectpack).items()
        if n.startswith(("MaxRects", "Skyline", "Guillotine")) and isinstance(a, type)
    ]
    for packer in packers:
        for sort in (
            rectpack.SORT_AREA,
            rectpack.SORT_PERI,
            rectpack.SORT_DIFF,
            rectpack.SORT_SSIDE,
            rectpack.SORT_LSIDE,
            rectpack.SORT_RATIO,
            rectpack.SORT_NONE,
        ):
            for rule in (rectpack.PackingBin.BBF, rectpack.PackingBin.BFF, rectpack.PackingBin.BNF):
                p = rectpack.newPacker(
                    mode=rectpack.PackingMode.Offline,
                    bin_algo=rule,
                    pack_algo=packer,
                    sort_algo=sort,
                    rotation=True,
                )
                for w, h in sizes:
                    p.add_rect(w, h)
                p.add_bin(width, height, count=quantity)
                p.pack()
                laid = p.rect_list()
                bins = {r[0] for r in laid}
                key = (
                    -sum(r[3] * r[4] for r in laid),
                    len(bins),
                    min(max(r[1] + r[3] for r in laid if r[0] == b) for b in bins),
                )
                best = key if best is None else min(best, key)
    return best


def sets():
    for k in range(20):
        rng = random.Random(100 + k)
        yield (
            f"random {k}",
            [(rng.randint(40, 500), rng.randint(40, 400)) for _ in range(rng.randint(20, 80))],
            (1000, 700),
        )
    yield (
        "cabinet",
        [(720, 560)] * 6 + [(720, 300)] * 8 + [(560, 500)] * 10 + [(396, 140)] * 12 + [(600, 100)] * 10,
        (2440, 1220),
    )
    yield "strips", [(1200, 80)] * 20 + [(600, 80)] * 20 + [(300, 80)] * 20, (2440, 1220)
    yield "squares", [(s, s) for s in range(40, 400, 12)], (1000, 1000)
    yield "two sizes", [(510, 340)] * 14 + [(333, 250)] * 20, (1525, 1525)
    yield "boxes", [(310, 210)] * 20 + [(310, 105)] * 20 + [(210, 105)] * 20, (1250, 1250)


SETS = list(sets())


@pytest.mark.parametrize("index", [0, 24] if MANY == 1 else range(25))
def test_never_worse_than_the_best_of_rectpack(index):
    _name, sizes, (width, height) = SETS[index]
    for quantity in (1, 20):
        own, _steps = solve(sizes, width, height, quantity, 25 if MANY == 1 else 60)
        assert own <= best_of_rectpack(sizes, width, height, quantity)
