"""The stock as a body: how high it still stands, place by place, and how much of a cutter it meets when a cut
comes by.

Heights live in ``field``, compiled loops in ``kernel``, measuring in ``engagement``. Judgements at 0.02 mm
(gouge, through, tabs) stay exact geometry elsewhere; nothing here replaces them.
"""
