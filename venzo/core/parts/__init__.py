"""Parts: what a drawing's loops mean, which of them are copies, and which contour is which after a
revision.
"""
