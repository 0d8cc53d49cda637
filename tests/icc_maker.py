"""A small CMYK output profile, made by hand after ICC.1:2001-04 (version 2), for tests: its formula is known."""

import struct

import numpy as np

GRID = 17


def inks_by_formula(lab: np.ndarray) -> np.ndarray:
    """C, M, Y, K 0..1 from CIELAB ``(..., 3)``: what the profile made here says."""
    lightness, a, b = lab[..., 0], lab[..., 1], lab[..., 2]
    return np.clip(np.stack([-a / 128, a / 128, b / 128, 1 - lightness / 100], axis=-1), 0, 1)


def _mft2(inputs: int, outputs: int, grid: int, samples: np.ndarray) -> bytes:
    """A lut16Type with straight curves."""
    head = b"mft2" + bytes(4) + bytes([inputs, outputs, grid, 0])
    matrix = struct.pack(">9i", *(65536 if at in (0, 4, 8) else 0 for at in range(9)))
    curve = struct.pack(">2H", 0, 65535)
    body = np.rint(np.clip(samples, 0, 65535)).astype(">u2").tobytes()
    return head + matrix + struct.pack(">2H", 2, 2) + curve * inputs + body + curve * outputs


def _text(text: str) -> bytes:
    plain = text.encode("ascii") + b"\0"
    return b"desc" + bytes(4) + struct.pack(">I", len(plain)) + plain + bytes(8 + 3 + 67)


def _padded(data: bytes) -> bytes:
    return data + bytes(-len(data) % 4)


def cmyk_profile(name: str = "Made for a test", space: bytes = b"CMYK", kind: bytes = b"prtr") -> bytes:
    """The bytes of a CMYK output profile whose separation is :func:`inks_by_formula`."""
    axis = np.arange(GRID) / (GRID - 1) * 65535
    code = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1)
    lab = np.stack([code[..., 0] / 652.8, code[..., 1] / 256 - 128, code[..., 2] / 256 - 128], axis=-1)
    to_inks = _mft2(3, 4, GRID, inks_by_formula(lab).reshape(-1) * 65535)
    ink = np.stack(np.meshgrid(*[np.linspace(0, 1, 3)] * 4, indexing="ij"), axis=-1)
    back = np.stack(
        [
            (1 - ink[..., 3]) * 100 * 652.8,
            (np.clip((ink[..., 1] - ink[..., 0]) * 128, -127, 127) + 128) * 256,
            (np.clip(ink[..., 2] * 128, 0, 127) + 128) * 256,
        ],
        axis=-1,
    )
    to_lab = _mft2(4, 3, 3, back.reshape(-1))
    white = b"XYZ " + bytes(4) + struct.pack(">3i", *(round(value * 65536) for value in (0.9642, 1.0, 0.8249)))
    tags = {b"desc": _text(name), b"wtpt": white, b"cprt": b"text" + bytes(4) + b"none\0"}
    tags |= dict.fromkeys((b"A2B0", b"A2B1", b"A2B2"), to_lab) | dict.fromkeys((b"B2A0", b"B2A1", b"B2A2"), to_inks)
    at, table, data = 128 + 4 + 12 * len(tags), b"", b""
    for tag, body in tags.items():
        table += tag + struct.pack(">2I", at + len(data), len(body))
        data += _padded(body)
    head = struct.pack(">I4sI4s4s4s", at + len(data), b"none", 0x02400000, kind, space, b"Lab ")
    head += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + bytes(4 + 4 + 4 + 4 + 8 + 4)
    head += struct.pack(">3i", *(round(value * 65536) for value in (0.9642, 1.0, 0.8249)))
    return head.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + data
