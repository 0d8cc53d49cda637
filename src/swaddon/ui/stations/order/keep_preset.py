"""Asks under which name, and for what, the settings of now are kept."""

from PySide6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QLineEdit, QVBoxLayout, QWidget

from swaddon.core.order.presets import KINDS, GoodsKind, Preset, kinds_of, preset_of
from swaddon.session.job import Job
from swaddon.ui.widgets import label


class KeepPreset(QDialog):
    """Name, when it is right, the goods and the process that it is offered for."""

    def __init__(self, parent: QWidget, job: Job) -> None:
        super().__init__(parent.window())
        self.setWindowTitle("Keep these settings")
        self.setMinimumWidth(420)
        self._job = job
        self.name, self.why = QLineEdit(), QLineEdit()
        self.name.setAccessibleName("Name of the preset")
        self.name.setMaxLength(60)
        self.why.setAccessibleName("When it is right")
        self.why.setMaxLength(400)
        process = "" if job.profile is None else job.profile.printing.title
        self.process = QCheckBox(f"Offer it for {process} only")
        mine = kinds_of(job.settings.garment)
        self.goods: dict[GoodsKind, QCheckBox] = {}
        for kind in KINDS:
            self.goods[kind] = QCheckBox(f"for {kind} goods")
            self.goods[kind].setChecked(kind in mine)
        self.wrong = label("", "effect", wrap=True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        for part in (
            label("Name", "head"), self.name, label("When it is right", "head"), self.why, self.process,
            label("Offered at intake", "head"), *self.goods.values(), self.wrong, buttons,
        ):  # fmt: skip
            layout.addWidget(part)

    def preset(self) -> Preset:
        """The preset that is asked for."""
        goods = tuple(kind for kind, box in self.goods.items() if box.isChecked())
        processes = (self._job.profile.process,) if self.process.isChecked() and self._job.profile else ()
        name = " ".join(self.name.text().split())
        return preset_of(self._job.settings, Preset(name, self.why.text().strip(), processes, goods))

    def accept(self) -> None:
        name = self.preset().name
        if not name or "/" in name or "\\" in name or name.startswith("."):
            self.wrong.setText("Give it a name without slashes.")
            return
        super().accept()
