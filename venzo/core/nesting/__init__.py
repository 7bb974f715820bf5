"""Where does each piece lie on which sheet?

``problem`` states it (CONTRACT.md), ``engine`` searches, ``raster`` and ``slide`` answer its two hot
questions, ``verify`` is the independent judge that every layout passes before anyone sees it.
"""
