"""The one set of geometry tolerances, in millimetres, and the error budget they add up to.

A programmed path may differ from the drawing by at most ``BUDGET``. It is spent so::

    flattening of splines and ellipses at intake   FLATTEN        0.002
    refitting drawn polylines at intake            REFIT_DRAWN    0.005
    chords under arcs before an offset             CHORD          0.002
    the offsetter's own round joins and rounding   OFFSET         0.002
    refitting lines and arcs after the offset      REFIT          0.006
    three decimals in the program                  PROGRAM_ROUND  0.001
    ------------------------------------------------------------------
                                                                  0.018   (BUDGET 0.02)
"""

BUDGET = 0.02
FLATTEN = 0.002
REFIT_DRAWN = 0.005
CHORD = 0.002
OFFSET = 0.002
REFIT = 0.006
PROGRAM_ROUND = 0.001

JOIN = 0.05
"""Default largest gap closed between two segments of a drawing."""

SAME = 1e-6
"""Two coordinates nearer than this are one."""

LIKE = 0.02
"""Two parts whose every vertex agrees within this are copies of one shape."""

NEST_CHORD = 0.02
"""How far a circumscribed polygon may lie outside an arc in a clearance question."""

PROVE_CHORD = 0.001
"""Chords used by the proof, which must be finer than the thing it proves."""
FIT = 0.05
"""mm; a drill or a slot's cutter this near to the drawn size fits it."""
