"""One module per open format. Each reads bytes into core shapes or writes core results; no rule lives
here.
"""
