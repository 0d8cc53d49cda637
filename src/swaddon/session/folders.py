"""Where the program keeps what it keeps."""

import os
from pathlib import Path

import platformdirs


def config_folder() -> Path:
    """The shop's documents: prices, garments, media, machines, presses, tests, presets, preferences."""
    return Path(os.environ.get("SWADDON_CONFIG") or platformdirs.user_config_path("swaddon"))


def recovery_folder() -> Path:
    """Where running programs keep copies of unsaved jobs, each in a folder of its own."""
    return config_folder() / "recovery"
