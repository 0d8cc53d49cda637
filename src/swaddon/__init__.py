"""Swaddon plans the white under a garment print, and what the print costs."""

import os

__version__ = "0.1.0"

# Stages run two at a time and kernels by rows already. Threads of the linear algebra beside them gain nothing on its
# small systems and wait by spinning: on two busy cores a fit of inks took seven times the processor time with them.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
