"""Swaddon plans the white under a garment print, and what the print costs."""

__version__ = "0.1.0"
