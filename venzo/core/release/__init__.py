"""What goes to the machine: which programs there are and what they are called, what a release holds and
leaves out, which part of the job is released first, and what differs from what was released before.

``programs`` lists and writes the files of a setup; ``file_names`` calls them; ``contents`` says what is in
them; ``picking`` takes a part of the cuts; ``released`` holds what was released against the plan as it is.

>>> from venzo.core.release.file_names import slug
>>> slug("Hide, wall ribs")
'hide-wall-ribs'
"""
