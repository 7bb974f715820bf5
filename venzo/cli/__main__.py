"""``python -m venzo.cli``."""

from venzo.cli import main

main()
