"""A kerf program read by another library and swept here: nothing of Venzo's reader, writer or proof."""

import math
import re
from dataclasses import dataclass

import shapely
from gcodeparser import parse_gcode_lines

CHORD = 0.0005


@dataclass
class HeadOn:
    """One burn: its points (mm), and the way of each move with its feed (mm, mm/min)."""

    points: list
    feeds: list


@dataclass
class Swept:
    """All burns, the head-down ways before each, the fast ones, and pierces."""

    burns: list
    hops: list
    fast: list

    def areas(self, kerf):
        """What each burn takes out of the sheet."""
        return [
            (shapely.LineString(b.points) if len(b.points) > 1 else shapely.Point(b.points[0])).buffer(
                kerf / 2, quad_segs=64
            )
            for b in self.burns
        ]

    @property
    def length(self):
        """mm with the head on."""
        return sum(d for b in self.burns for d, _f in b.feeds)


def _arc(a, b, centre, clockwise):
    r = math.dist(a, centre)
    start = math.atan2(a[1] - centre[1], a[0] - centre[0])
    end = math.atan2(b[1] - centre[1], b[0] - centre[0])
    turn = (start - end) if clockwise else (end - start)
    turn %= 2 * math.pi
    if turn < 1e-9:
        turn = 2 * math.pi
    n = max(2, math.ceil(turn / (2 * math.acos(max(0.0, 1 - CHORD / r)))) if r > CHORD else 2)
    side = -1 if clockwise else 1
    out = [
        (
            centre[0] + r * math.cos(start + side * turn * k / n),
            centre[1] + r * math.sin(start + side * turn * k / n),
        )
        for k in range(1, n)
    ]
    return [*out, b], r * turn


def _every_word(text):
    """The modal motion word on every line, as gcodeparser wants it, and no comments."""
    out, motion = [], ""
    for line in re.sub(r"\([^)]*\)", "", text).splitlines():
        found = re.match(r"G[0-3](?!\d)", line)
        motion = found.group() if found else motion
        out.append(f"{motion} {line}" if re.match("[XYIJ]", line) else line)
    return "\n".join(out)


def swept(text):
    """Read a program: M3 and M5 switch the head, G0 to G3 move it."""
    at, on, mode, feed, scale = (0.0, 0.0), False, 0, 0.0, 1.0
    burns, hops, fast, waiting = [], [], [], []
    for line in parse_gcode_lines(_every_word(text)):
        letter, number = line.command
        if (letter, number) == ("M", 3):
            assert not on
            on = True
            burns.append(HeadOn([at], []))
            hops.append(waiting)
            waiting = []
        elif (letter, number) == ("M", 5):
            on = False
        elif letter == "G" and number in (20, 21):
            scale = 25.4 if number == 20 else 1.0
        elif letter == "G" and number in (0, 1, 2, 3):
            mode, p = number, line.params
            feed = p.get("F", feed / scale) * scale
            to = (p["X"] * scale if "X" in p else at[0], p["Y"] * scale if "Y" in p else at[1])
            if to == at and mode < 2:
                continue
            if mode >= 2:
                centre = (at[0] + p.get("I", 0.0) * scale, at[1] + p.get("J", 0.0) * scale)
                points, length = _arc(at, to, centre, mode == 2)
            else:
                points, length = [to], math.dist(at, to)
            if on:
                assert mode > 0, "a fast move with the head on"
                burns[-1].points += points
                burns[-1].feeds.append((length, feed))
            elif mode:
                waiting.append(shapely.LineString([at, to]))
            else:
                fast.append((at, to))
            at = to
    assert not on, "the head is left on"
    return Swept(burns, hops, fast)
