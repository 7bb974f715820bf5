"""How sheet metal, plastic and rubber are cut by a kerf: an arc or a jet that goes through all at once.

Here live the kerf's middle lines (``kerf_lines``), pierces and leads (``piercing``), common lines
(``common``), the cuts of a sheet (``kerf_cuts``), their order, hops and time (``running``), and what is
decided about it (``how``). No spindle, no depth, no chip: those are the rooms ``cuts`` and ``feeds``.

>>> from venzo.core.geometry.contour import Contour
>>> from venzo.core.geometry.regions import Region
>>> from venzo.core.kerf.how import KerfHow
>>> from venzo.core.kerf.kerf_cuts import kerf_cuts
>>> from venzo.core.kerf.kerf_lines import Body
>>> from venzo.core.kerf.running import run
>>> disc = [Body("disc", Region(Contour.circle(0, 0, 50), (Contour.circle(0, 0, 10).reversed(),)))]
>>> how = KerfHow(kerf=1.4, lead=2.54, feed=3800, lead_feed=1270)
>>> done = run(kerf_cuts(disc, how).cuts, disc, how)
>>> [c.contour for c in done.cuts], done.pierces, round(done.cut_length / 1000, 3)
(['hole 1', 'outline'], 2, 0.382)
"""
