"""``python -m swaddon``."""

from swaddon.cli import main

main()
