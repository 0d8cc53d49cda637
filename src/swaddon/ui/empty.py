"""What an empty proof table says: drop artwork, place it, or open a demo job."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from swaddon.session.demo import DEMO_JOBS
from swaddon.ui.widgets import button, label


class EmptyTable(QWidget):
    """Shown in place of the print while there is no artwork."""

    def __init__(self, place: Callable[[], None], open_demo: Callable[[str], None]) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.setSpacing(10)
        title = label("Drop artwork here", "title")
        title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.addWidget(title)
        hint = label(
            "PNG, JPEG, TIFF, WebP, SVG, PDF or OpenRaster, at best 300 ppi at print size. Pasting works too.", "quiet"
        )
        hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.addWidget(hint)
        self.place = button("Place artwork …", "primary", "image-plus")
        self.place.clicked.connect(place)
        layout.addWidget(self.place, 0, Qt.AlignmentFlag.AlignCenter)
        layout.addSpacing(16)
        or_demo = label("or open a job of the demo shop", "quiet")
        or_demo.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.addWidget(or_demo)
        self.demos: dict[str, QWidget] = {}
        for job in DEMO_JOBS:
            made = button(job.title)
            made.setFixedWidth(280)
            made.clicked.connect(lambda _=False, key=job.key: open_demo(key))
            layout.addWidget(made, 0, Qt.AlignmentFlag.AlignCenter)
            self.demos[job.key] = made
