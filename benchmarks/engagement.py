"""How evenly do rings and rows load the cutter? Engagement along the paths of a few pockets, as a share of
the diameter.

python -m benchmarks.engagement
"""

from __future__ import annotations

from venzo.core.cuts.areas import areas
from venzo.core.cuts.pocket import Clearing, clear_area, engagement
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.parts.shape import Feature, Shape

BOARD = Contour.of([(-400, -400), (400, -400), (400, 400), (-400, 400)])
POCKETS = {
    "square 100": [Contour.of([(0, 0), (100, 0), (100, 100), (0, 100)])],
    "tray with island": [Contour.of([(0, 0), (200, 0), (200, 60), (0, 60)]), Contour.circle(100, 30, 12)],
    "dumbbell, 9 mm neck": [
        Contour.of(
            [
                (0, 0),
                (60, 0),
                (60, 25.5),
                (100, 25.5),
                (100, 0),
                (160, 0),
                (160, 60),
                (100, 60),
                (100, 34.5),
                (60, 34.5),
                (60, 60),
                (0, 60),
            ]
        )
    ],
    "narrow, 14 wide": [Contour.of([(0, 0), (180, 0), (180, 14), (0, 14)])],
}


def main() -> None:
    """Print the table."""
    diameter = 6.0
    print(
        f"cutter {diameter:g} mm; engagement as a share of the diameter: mean, 95th percentile; length of"
        " path, m"
    )
    for name, rings in POCKETS.items():
        shape = Shape(
            Region(BOARD, ()),
            ("outline",),
            tuple(Feature("pocket", f"pocket {k + 1}", c.oriented(True), 5.0) for k, c in enumerate(rings)),
        )
        area = areas(shape, shape.features, {f.name: 5.0 for f in shape.features}, 1.0)["pocket 1"]
        for over in (0.4, 0.6, 0.92):
            row = []
            for pattern in ("offset", "raster"):
                lines = clear_area(area, diameter / 2, 0.0, over, Clearing(pattern))
                mean, most, _peak = engagement(lines.paths, diameter / 2)
                row.append(
                    f"{'rings' if pattern == 'offset' else 'rows'} {mean:.2f} {most:.2f}"
                    f" {sum(p.length for p in lines.paths) / 1000:.2f} m"
                )
            print(f"  {name:22s} step-over {over:.0%}: {'   '.join(row)}")


if __name__ == "__main__":
    main()
