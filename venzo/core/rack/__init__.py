"""What is on the shelves: lots of like sheets and remnants, and movements of which stock on hand is the sum.

``lots`` says what a lot is and which movements there are; ``on_hand`` what they come to; ``fits`` what a part
or a size would fit in. Movements are only ever added; what is on hand is never below nothing.

>>> from venzo.core.rack.on_hand import shelves
>>> shelves([])
{}
"""
