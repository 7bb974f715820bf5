"""Venzo: from drawings to proven programs for router and kerf tables."""

__version__ = "0.1.0"
