"""Tests of this room ask what is done with jobs whose derivations are known."""

import pytest


@pytest.fixture
def demo(known_demo):
    """The demo shop as it was served before."""
    return known_demo
