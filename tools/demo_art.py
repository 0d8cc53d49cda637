"""Draw the demo shop's artwork, 300 ppi at print size, and build its job files.

Run ``python tools/demo_art.py`` after changing a drawing; the results are kept in ``src/swaddon/demo``.
"""

import math
import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import cv2
import numpy as np
from PIL import Image
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFontDatabase,
    QGuiApplication,
    QImage,
    QLinearGradient,
    QPainter,
    QPainterPath,
    QPen,
    QRadialGradient,
)

from demo_brush import PPMM, arched, canvas, painter, rgba_of, text_path
from demo_goods import boathouse_tag, fogbell_ferry

ROOT = Path(__file__).resolve().parents[1] / "src" / "swaddon"
OUT = ROOT / "demo"


def lantern(brush: QPainter, x: float, y: float, size: float, colour: str) -> None:
    """A ribbed paper lantern with a glow that fades into the dark."""
    hot = QColor(colour)
    glow = QRadialGradient(QPointF(x, y), size * 2.1)
    for stop, alpha in ((0.0, 190), (0.35, 95), (0.7, 26), (1.0, 0)):
        shade = QColor(hot)
        shade.setAlpha(alpha)
        glow.setColorAt(stop, shade)
    brush.setBrush(QBrush(glow))
    brush.drawEllipse(QPointF(x, y), size * 2.1, size * 2.1)
    body = QRadialGradient(QPointF(x, y - size * 0.1), size)
    body.setColorAt(0, QColor("#fff6cf"))
    body.setColorAt(0.45, hot.lighter(120))
    body.setColorAt(1, hot)
    shape = QPainterPath()
    shape.addEllipse(QPointF(x, y), size * 0.82, size)
    brush.setBrush(QBrush(body))
    brush.drawPath(shape)
    brush.setBrush(Qt.BrushStyle.NoBrush)
    brush.setPen(QPen(hot.darker(170), 0.45))
    for rib in (-0.66, -0.33, 0, 0.33, 0.66):
        brush.drawEllipse(QPointF(x, y), abs(size * 0.82 * rib), size)
    brush.setPen(Qt.PenStyle.NoPen)
    brush.setBrush(QColor("#7a4a21"))
    for edge in (-1, 1):
        brush.drawRoundedRect(QRectF(x - size * 0.3, y + edge * size - size * 0.09, size * 0.6, size * 0.18), 1, 1)


def lantern_regatta() -> QImage:
    image = canvas(280, 300, "#000000")  # not the shirt's #1b1b1f: customers draw night in pure black
    brush = painter(image)
    cord = QPainterPath(QPointF(6, 82))
    cord.cubicTo(80, 128, 200, 128, 274, 82)
    brush.setPen(QPen(QColor("#c9a25e"), 0.8))
    brush.drawPath(cord)
    brush.setPen(Qt.PenStyle.NoPen)
    colours = ("#f0563c", "#f6a623", "#f7d354", "#3fb8a5", "#e8467c")
    for index, colour in enumerate(colours):
        at = cord.pointAtPercent(0.17 + 0.165 * index)
        lantern(brush, at.x(), at.y() + 30, 18 if index != 2 else 22, colour)
    boat = QPainterPath(QPointF(52, 196))
    boat.cubicTo(100, 222, 180, 222, 228, 196)
    boat.cubicTo(214, 236, 66, 236, 52, 196)
    brush.setBrush(QColor("#c8452f"))
    brush.drawPath(boat)
    brush.setBrush(QColor("#ffffff"))
    band = QPainterPath(QPointF(58, 205))
    band.cubicTo(104, 228, 176, 228, 222, 205)
    band.lineTo(220, 209.5)
    band.cubicTo(176, 233, 104, 233, 60, 209.5)
    brush.drawPath(band)
    brush.setPen(QPen(QColor("#e9dcc0"), 1.7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    for index in range(5):
        x = 92 + index * 24
        brush.drawLine(QPointF(x, 206), QPointF(x - 26, 244))
    brush.setPen(Qt.PenStyle.NoPen)
    for row in range(7):
        y = 240 + row * 4.4
        water = QLinearGradient(QPointF(20, y), QPointF(260, y))
        for stop, alpha in ((0, 0), (0.3, 210 - row * 24), (0.7, 210 - row * 24), (1, 0)):
            shade = QColor("#58c2d6")
            shade.setAlpha(max(0, alpha))
            water.setColorAt(stop, shade)
        wave = QPainterPath(QPointF(10, y))
        for x in range(10, 270, 10):
            wave.quadTo(x + 5, y + (1.7 if (x // 10 + row) % 2 else -1.7), x + 10, y)
        brush.setPen(QPen(QBrush(water), 1.1))
        brush.setBrush(Qt.BrushStyle.NoBrush)
        brush.drawPath(wave)
    brush.setPen(Qt.PenStyle.NoPen)
    brush.setBrush(QColor("#ffffff"))
    arched(brush, "LANTERN REGATTA", 18.5, QPointF(140, 206), 166, 84)
    brush.setBrush(QColor("#f6a623"))
    brush.translate(140, 284)
    brush.drawPath(text_path("MERROWMERE  ·  ROWED AFTER DARK  ·  CREW", 6.2, spacing=14))
    brush.translate(0, 10)
    brush.setBrush(QColor("#e9dcc0"))
    brush.drawPath(text_path("no wake  ·  no engines  ·  no early nights", 3.1, "IBM Plex Sans Condensed", spacing=8))
    brush.end()
    return image


def heron(brush: QPainter) -> None:
    """A standing heron in white, beak to the right, drawn round (0, 0), about 110 mm high."""
    body = QPainterPath(QPointF(-34, 30))
    body.cubicTo(-30, -6, 0, -20, 12, -26)
    body.cubicTo(24, -36, 2, -48, 8, -62)
    body.cubicTo(12, -72, 26, -72, 31, -64)
    body.lineTo(64, -58)
    body.lineTo(31, -55)
    body.cubicTo(24, -50, 20, -52, 21, -46)
    body.cubicTo(26, -36, 34, -24, 24, -6)
    body.cubicTo(16, 12, -6, 22, -34, 30)
    brush.setBrush(QColor("#ffffff"))
    brush.drawPath(body)
    wing = QPainterPath(QPointF(-32, 28))
    wing.cubicTo(-22, 0, -2, -8, 14, -12)
    wing.cubicTo(12, 6, -8, 18, -32, 28)
    brush.setBrush(QColor("#8fa9c4"))
    brush.drawPath(wing)
    brush.setBrush(QColor("#26324f"))
    crest = QPainterPath(QPointF(12, -66))
    crest.cubicTo(2, -70, -8, -66, -18, -58)
    crest.cubicTo(-6, -62, 2, -60, 10, -58)
    brush.drawPath(crest)
    brush.setBrush(QColor("#d9482b"))
    brush.drawEllipse(QPointF(24, -63), 2.1, 2.1)
    brush.setPen(QPen(QColor("#f0b93a"), 1.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    for x in (2, 9):
        brush.drawLine(QPointF(x, 12), QPointF(x + 3, 34))
        brush.drawLine(QPointF(x + 3, 34), QPointF(x, 58))
    brush.setPen(Qt.PenStyle.NoPen)


def night_heron() -> QImage:
    image = canvas(240, 240, None)
    brush = painter(image)
    brush.translate(120, 120)
    brush.setBrush(QColor("#f0b93a"))
    ring = QPainterPath()
    ring.addEllipse(QPointF(0, 0), 117, 117)
    inner = QPainterPath()
    inner.addEllipse(QPointF(0, 0), 113, 113)
    brush.drawPath(ring.subtracted(inner))
    brush.setBrush(QColor("#f6ecd2"))
    outer = QPainterPath()
    outer.addEllipse(QPointF(0, 0), 84, 84)
    brush.drawPath(outer)
    sky = QLinearGradient(QPointF(0, -82), QPointF(0, 82))
    sky.setColorAt(0, QColor("#1d3b6b"))
    sky.setColorAt(0.62, QColor("#3f7fae"))
    sky.setColorAt(1, QColor("#79c0c6"))
    disc = QPainterPath()
    disc.addEllipse(QPointF(0, 0), 81, 81)
    brush.setBrush(QBrush(sky))
    brush.drawPath(disc)
    brush.setClipPath(disc)
    brush.setBrush(QColor("#fbe9a5"))
    brush.drawEllipse(QPointF(-38, -36), 21, 21)
    brush.setBrush(QColor("#e9cf7a"))
    for x, y, r in ((-44, -42, 4), (-32, -30, 3), (-38, -24, 2)):
        brush.drawEllipse(QPointF(x, y), r, r)
    brush.setBrush(QColor("#16284a"))
    brush.drawRect(QRectF(-90, 56, 180, 40))
    brush.setPen(QPen(QColor("#9ed3cf"), 0.5))
    for row in range(9):
        y = 60 + row * 3
        for x in range(-80, 80, 22):
            brush.drawLine(QPointF(x + row * 5 % 11, y), QPointF(x + 9 + row * 5 % 11, y))
    rng = np.random.default_rng(4)
    for _ in range(46):
        x = float(rng.uniform(-76, -24)) if rng.random() < 0.55 else float(rng.uniform(34, 76))
        tall, lean = float(rng.uniform(22, 52)), float(rng.uniform(-7, 7))
        brush.setPen(QPen(QColor("#20452f" if rng.random() < 0.5 else "#3f7a4a"), float(rng.uniform(0.25, 1.1))))
        stalk = QPainterPath(QPointF(x, 74))
        stalk.quadTo(x, 74 - tall * 0.6, x + lean, 74 - tall)
        brush.setBrush(Qt.BrushStyle.NoBrush)
        brush.drawPath(stalk)
    brush.setPen(Qt.PenStyle.NoPen)
    brush.translate(6, 8)
    heron(brush)
    brush.translate(-6, -8)
    brush.setClipping(False)
    brush.setBrush(QColor("#ffffff"))
    arched(brush, "NIGHT HERON ROWING", 15, QPointF(0, 0), 91, 168)
    brush.setBrush(QColor("#f0b93a"))
    arched(brush, "QUIET BLADES SINCE THE THAW", 7.5, QPointF(0, 0), 103, 116, inside=True)
    brush.end()
    return image


def metal(height: int, width: int, seed: int) -> np.ndarray:
    """Photographic wear: layered noise, 0..1."""
    rng = np.random.default_rng(seed)
    total = np.zeros((height, width), np.float32)
    for cells, strength in ((6, 1.0), (24, 0.6), (110, 0.35), (700, 0.22)):
        small = rng.standard_normal((cells, max(2, cells * width // height))).astype(np.float32)
        total += strength * cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC)
    total -= total.min()
    return total / total.max()


def kettle_hill() -> np.ndarray:
    image = canvas(240, 270, "#ffffff")
    brush = painter(image)
    body = QPainterPath(QPointF(52, 186))
    body.cubicTo(40, 120, 70, 88, 118, 88)
    body.cubicTo(166, 88, 196, 120, 184, 186)
    body.cubicTo(160, 200, 76, 200, 52, 186)
    spout = QPainterPath(QPointF(178, 130))
    spout.cubicTo(200, 126, 204, 104, 222, 96)
    spout.lineTo(228, 106)
    spout.cubicTo(214, 116, 212, 150, 184, 160)
    shade = QLinearGradient(QPointF(44, 0), QPointF(196, 0))
    for stop, colour in (
        (0, "#5e2419"),
        (0.28, "#d9603f"),
        (0.5, "#f08a5d"),
        (0.8, "#a83c26"),
        (1, "#571d14"),
    ):
        shade.setColorAt(stop, QColor(colour))
    brush.setBrush(QBrush(shade))
    brush.drawPath(body)
    brush.drawPath(spout)
    brush.setBrush(QColor("#2b2a2e"))
    brush.drawRoundedRect(QRectF(96, 78, 44, 12), 6, 6)
    brush.drawEllipse(QPointF(118, 74), 8, 8)
    brush.setPen(QPen(QColor("#2b2a2e"), 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    brush.setBrush(Qt.BrushStyle.NoBrush)
    handle = QPainterPath(QPointF(66, 102))
    handle.cubicTo(70, 30, 166, 30, 170, 102)
    brush.drawPath(handle)
    brush.setPen(QPen(QColor("#1f6f6b"), 3.2, Qt.PenStyle.DashLine))
    brush.drawLine(QPointF(70, 150), QPointF(122, 176))
    brush.setPen(Qt.PenStyle.NoPen)
    brush.setBrush(QColor("#e8c15a"))
    patch = QPainterPath()
    patch.addRoundedRect(QRectF(118, 128, 40, 34), 3, 3)
    brush.drawPath(patch)
    brush.setBrush(QColor("#ffffff"))
    for dx in (124, 152):
        for dy in (134, 156):
            brush.drawEllipse(QPointF(dx, dy), 2, 2)
    brush.setBrush(QColor("#1f6f6b"))
    brush.translate(120, 228)
    brush.drawPath(text_path("KETTLE HILL", 20, spacing=4))
    brush.translate(0, 18)
    brush.setBrush(QColor("#b5402a"))
    brush.drawPath(text_path("REPAIR CAFÉ", 11.4, spacing=22))
    brush.translate(0, 11)
    brush.setBrush(QColor("#2b2a2e"))
    brush.drawPath(text_path("mended on the first Saturday, mostly", 4.2, "IBM Plex Sans Condensed", spacing=4))
    brush.end()
    rgb = rgba_of(image)[..., :3].astype(np.float32)
    height, width = rgb.shape[:2]
    wear = metal(height, width, 11)[..., None]
    ys, xs = np.mgrid[0:height, 0:width]
    reddish = (rgb[..., 0] > rgb[..., 2] + 40)[..., None] & (ys < 205 * PPMM)[..., None]
    rgb = np.where(reddish, rgb * (0.62 + 0.66 * wear), rgb)
    return np.clip(rgb + 0.5, 0, 255).astype(np.uint8)


def saltgrass_choir() -> QImage:
    image = canvas(250, 260, None)
    brush = painter(image)
    rng = np.random.default_rng(9)
    tones = ("#7fb7a3", "#4f9a86", "#b9d8a8", "#e6c778", "#d99a6c", "#6aa6c9")
    brush.setBrush(Qt.BrushStyle.NoBrush)
    for _ in range(190):
        x = float(rng.uniform(14, 216))
        tall = float(rng.uniform(60, 150)) * (1 - abs(x - 125) / 260)
        lean = float(rng.normal(14, 12))
        blade = QPainterPath(QPointF(x, 190))
        blade.cubicTo(x, 190 - tall * 0.5, x + lean * 0.4, 190 - tall * 0.8, x + lean, 190 - tall)
        pen = QPen(QColor(tones[int(rng.integers(len(tones)))]), float(rng.uniform(0.4, 2.6)))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        brush.setPen(pen)
        brush.drawPath(blade)
    brush.setPen(Qt.PenStyle.NoPen)
    for index in range(9):
        x, y = 40 + index * 22, 60 + 22 * math.sin(index * 1.1)
        brush.setBrush(QColor("#2e5266"))
        brush.drawEllipse(QPointF(x, y), 4.6, 3.6)
        brush.drawRect(QRectF(x + 3.4, y - 24, 1.2, 24))
        brush.setBrush(QColor("#ffffff"))
        brush.drawEllipse(QPointF(x - 0.6, y - 0.5), 1.7, 1.1)
    brush.setBrush(QColor("#2e5266"))
    brush.translate(125, 218)
    brush.drawPath(text_path("SALTGRASS CHOIR", 17, spacing=3))
    brush.translate(0, 17)
    brush.setBrush(QColor("#c9703e"))
    brush.drawPath(text_path("TIDE TABLES TOUR", 9.6, spacing=26))
    brush.translate(0, 13)
    brush.setBrush(QColor("#4f6b78"))
    for line in ("Merrowmere · Fogbell Quay · Low Sluice · Kettle Hill · Ostrel Point",):
        brush.drawPath(text_path(line, 3.3, "IBM Plex Sans Condensed", spacing=6))
    brush.end()
    return image


def orbit(brush: QPainter, centre: QPointF, turn: float, size: tuple[float, float], colour: str, width: float) -> None:
    """A thin tilted ellipse with a small marble on it."""
    brush.save()
    brush.translate(centre)
    brush.rotate(turn)
    brush.setBrush(Qt.BrushStyle.NoBrush)
    brush.setPen(QPen(QColor(colour), width))
    brush.drawEllipse(QPointF(0, 0), *size)
    brush.setPen(Qt.PenStyle.NoPen)
    brush.setBrush(QColor(colour))
    brush.drawEllipse(QPointF(size[0] * math.cos(0.7), size[1] * math.sin(0.7)), 1.3, 1.3)
    brush.restore()


def marble_league() -> QImage:
    image = canvas(110, 74, None)
    brush = painter(image)
    brush.setBrush(QColor("#141416"))
    brush.drawRoundedRect(QRectF(0.6, 0.6, 108.8, 72.8), 7, 7)
    brush.setBrush(Qt.BrushStyle.NoBrush)
    brush.setPen(QPen(QColor("#f2c14e"), 0.6))
    brush.drawRoundedRect(QRectF(2.6, 2.6, 104.8, 68.8), 5.4, 5.4)
    centre = QPointF(27, 33)
    for turn, size, colour, width in (
        (-24, (20, 6.4), "#f2c14e", 0.5), (28, (19, 7.2), "#ff7a59", 0.35), (86, (17.5, 5.6), "#9fd8cb", 0.22),
    ):  # fmt: skip
        orbit(brush, centre, turn, size, colour, width)
    glass = QRadialGradient(QPointF(23.6, 28.6), 14)
    for stop, colour in ((0, "#d9f4ff"), (0.3, "#45b3e0"), (0.75, "#1f5fae"), (1, "#123a72")):
        glass.setColorAt(stop, QColor(colour))
    brush.setPen(Qt.PenStyle.NoPen)
    brush.setBrush(QBrush(glass))
    brush.drawEllipse(centre, 10.5, 10.5)
    twist = QPainterPath(QPointF(20, 36))
    twist.cubicTo(26, 26, 30, 40, 35, 29)
    twist.cubicTo(31, 44, 26, 31, 20, 36)
    brush.setBrush(QColor("#ff7a59"))
    brush.drawPath(twist)
    brush.setBrush(QColor("#ffffff"))
    brush.drawEllipse(QPointF(23, 27.4), 2.1, 1.4)
    for text, y, size, colour, family, spacing in (
        ("LOW ORBIT", 26.6, 7.4, "#ffffff", "IBM Plex Sans", 4),
        ("MARBLE LEAGUE", 36.4, 4.9, "#f2c14e", "IBM Plex Sans", 4),
        ("LANE FOUR · HEAT SEVEN", 45.5, 2.9, "#9fd8cb", "IBM Plex Sans Condensed", 10),
        ("KETTLE HILL TRACK, MERROWMERE", 51.2, 2.1, "#e9dcc0", "IBM Plex Sans Condensed", 8),
        ("WASH INSIDE OUT AT 30 °C · KEEP THE IRON OFF THE PRINT", 56, 1.25, "#e9dcc0", "IBM Plex Sans Condensed", 6),
    ):
        brush.save()
        brush.translate(74.5, y)
        brush.setBrush(QColor(colour))
        brush.drawPath(text_path(text, size, family, spacing))
        brush.restore()
    for number, colour in enumerate(("#f2c14e", "#ff7a59", "#9fd8cb", "#45b3e0", "#c8452f", "#ffffff")):
        brush.setBrush(QColor(colour))
        brush.drawEllipse(QPointF(62 + number * 5, 63.4), 1.5, 1.5)
    brush.end()
    return image


def save_png(image: QImage, name: str, opaque: bool) -> None:
    rgba = rgba_of(image)
    picture = Image.fromarray(rgba[..., :3] if opaque else rgba)
    picture.save(OUT / name, dpi=(300, 300), optimize=True)


def main() -> None:
    app = QGuiApplication(sys.argv)
    for file in sorted((ROOT / "ui" / "fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))
    OUT.mkdir(exist_ok=True)
    save_png(lantern_regatta(), "lantern-regatta.png", opaque=True)
    save_png(night_heron(), "night-heron.png", opaque=False)
    Image.fromarray(kettle_hill()).save(OUT / "kettle-hill.jpg", dpi=(300, 300), quality=86)
    save_png(saltgrass_choir(), "saltgrass-choir.png", opaque=False)
    save_png(marble_league(), "marble-league.png", opaque=False)
    save_png(fogbell_ferry(), "fogbell-ferry.png", opaque=False)
    save_png(boathouse_tag(), "boathouse-tag.png", opaque=False)
    for file in sorted(OUT.iterdir()):
        print(f"{file.name:24} {file.stat().st_size / 1e6:.2f} MB")
    app.quit()


if __name__ == "__main__":
    main()
