"""Entry point of ``python -m oddpair.cli``."""

from .app import main

main()
