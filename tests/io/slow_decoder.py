"""Stand-ins for decoders that take their time, or break down; they run apart."""

import os
import signal
import time

import numpy as np


def slow(data: bytes, name: str, seconds: float):
    """Computes for so long, and then gives a picture."""
    end = time.process_time() + seconds
    while time.process_time() < end:
        pass
    return {"name": name}, [np.full((2, 3), len(data), np.uint16)]


def broken(data: bytes, name: str, how: str):
    if how == "segmentation":
        os.kill(os.getpid(), signal.SIGSEGV)
    if how == "leaves":
        os._exit(3)
    raise ValueError("no picture")
