"""Parts: what a drawing's loops mean, which of them are copies, and which contour is which after a
revision.

>>> from venzo.core.parts.layers import depth_of, role_of
>>> role_of("POCKET 6mm")[0], depth_of("POCKET 6mm"), depth_of("pocket 1/4", "in")
('pocket', 6.0, 6.35)
"""
