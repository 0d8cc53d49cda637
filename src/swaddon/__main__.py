"""The command ``swaddon``, and ``python -m swaddon``."""

import signal


def main() -> None:
    """Run the command line; until it is there to say so in words, being told to stop ends it at once."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    from swaddon.cli import main as run

    run()


if __name__ == "__main__":
    main()
