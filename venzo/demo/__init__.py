"""The demo shop, Marram Works: a made-up joinery that fits out a bird-watching hide on a made-up estuary. All
data is invented.
"""
