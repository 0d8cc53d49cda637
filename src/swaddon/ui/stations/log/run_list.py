"""The runs that were found, as a list that fetches more while it is scrolled."""

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QKeyEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from swaddon.core.log.entry import Entry
from swaddon.session.log_words import count_text, line_text, title_text, verdict_text
from swaddon.ui import theme
from swaddon.ui.widgets import plain_tip

_ROW, _THUMB, _EDGE = 58, 44, 6
_MOST_THUMBS = 600
_Index = QModelIndex | QPersistentModelIndex


class RunModel(QAbstractListModel):
    """Rows of the list; ``more`` asks for those after the last one."""

    more = Signal()

    def __init__(self, view: QWidget) -> None:
        super().__init__(view)  # it goes with the view: what its signals are connected to would keep both for ever
        self.rows: list[tuple[int, Entry, str]] = []
        self.is_whole = True
        self._asked = False
        self.thumbs: dict[str, QPixmap] = {}

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self.rows):
            return None
        _, entry, told = self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            parts = (title_text(entry), line_text(entry), count_text(entry.happened), verdict_text(entry.verdict), told)
            return ", ".join(filter(None, parts))
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(told or f"{title_text(entry)}\n{line_text(entry)}")
        return None

    def show_rows(self, rows: Sequence[tuple[int, Entry, str]], is_whole: bool) -> None:
        """Show other rows; ``is_whole``: there are no more."""
        self.beginResetModel()
        self.rows, self.is_whole, self._asked = list(rows), is_whole, False
        self.endResetModel()

    def add_rows(self, rows: Sequence[tuple[int, Entry, str]], is_whole: bool) -> None:
        """Add the rows that follow."""
        self._asked, self.is_whole = False, is_whole
        if rows:
            first = len(self.rows)
            self.beginInsertRows(QModelIndex(), first, first + len(rows) - 1)
            self.rows += rows
            self.endInsertRows()

    def canFetchMore(self, _parent: _Index) -> bool:
        return bool(self.rows) and not self.is_whole and not self._asked

    def fetchMore(self, _parent: _Index) -> None:
        if not self._asked:
            self._asked = True
            self.more.emit()

    def missed(self) -> None:
        """What was asked for did not come: it may be asked for again."""
        self._asked = False

    def put_thumbs(self, found: dict[str, QPixmap]) -> None:
        """Keep small pictures, the newest of them."""
        self.thumbs.update(found)
        while len(self.thumbs) > _MOST_THUMBS:
            self.thumbs.pop(next(iter(self.thumbs)))
        if self.rows:
            self.dataChanged.emit(self.index(0), self.index(len(self.rows) - 1))


class _Painter(QStyledItemDelegate):
    """A run: small picture, order, line and day, counts, and the verdict as a sign."""

    def sizeHint(self, _option: QStyleOptionViewItem, _index: _Index) -> QSize:
        return QSize(200, _ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        model = index.model()
        assert isinstance(model, RunModel)
        _, entry, told = model.rows[index.row()]
        scheme = theme.current()
        box = QRectF(option.rect)
        state: Any = option.state
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, QColor(scheme.raised))
            painter.fillRect(QRectF(box.left(), box.top(), 3, box.height()), QColor(scheme.accent))
        if state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QPen(QColor(scheme.accent), 1))
            painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
        place = QRectF(box.left() + _EDGE, box.top() + (_ROW - _THUMB) / 2, _THUMB, _THUMB)
        picture = None if entry.ordered is None else model.thumbs.get(entry.ordered.thumbnail)
        if picture is None:
            colour = QColor(*entry.ordered.garment_rgb) if entry.ordered is not None else QColor(scheme.raised)
            painter.fillRect(place, colour)
        else:
            painter.drawPixmap(_fitted(place, picture), picture, QRectF(picture.rect()))
        words = QRectF(place.right() + 8, box.top() + 4, box.right() - place.right() - 14, 17)
        self._lines(painter, words, entry, told)
        painter.restore()

    def _lines(self, painter: QPainter, words: QRectF, entry: Entry, told: str) -> None:
        scheme = theme.current()
        bold, plain = QFont(theme.FAMILY), QFont(theme.CONDENSED)
        bold.setPixelSize(13)
        bold.setWeight(QFont.Weight.DemiBold)
        plain.setPixelSize(12)
        sign, colour = _sign(entry)
        for at, (font, text, ink) in enumerate((
            (bold, title_text(entry), scheme.text),
            (plain, line_text(entry), scheme.quiet),
            (plain, told or f"{sign} {count_text(entry.happened)}  {_seen(entry)}".strip(), colour),
        )):  # fmt: skip
            painter.setFont(font)
            painter.setPen(QColor(ink))
            line = words.translated(0, 17 * at)
            fitted = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(line.width()))
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, fitted)


def _fitted(place: QRectF, picture: QPixmap) -> QRectF:
    scale = min(place.width() / picture.width(), place.height() / picture.height())
    width, height = picture.width() * scale, picture.height() * scale
    return QRectF(place.center().x() - width / 2, place.center().y() - height / 2, width, height)


def _sign(entry: Entry) -> tuple[str, str]:
    """The verdict as a shape: fine, something seen, not looked at."""
    scheme = theme.current()
    if entry.verdict is None or not entry.verdict.looked:
        return "○", scheme.quiet
    return ("✓", scheme.gain) if entry.verdict.is_fine else ("■", scheme.look)


def _seen(entry: Entry) -> str:
    return "" if entry.verdict is None or not entry.verdict.seen else verdict_text(entry.verdict)


class RunList(QListView):
    """The list; ``chosen`` tells the run that was taken, ``asked`` a key: ``v`` verdict, ``c`` compare."""

    chosen = Signal(object)
    asked = Signal(str)

    def __init__(self, wants_thumbs: Callable[[Sequence[str]], None]) -> None:
        super().__init__()
        self._wants_thumbs = wants_thumbs
        self.runs = RunModel(self)
        self.setModel(self.runs)
        self.setItemDelegate(_Painter(self))
        self.setAccessibleName("Runs")
        self.setUniformItemSizes(True)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(200)
        self.verticalScrollBar().valueChanged.connect(lambda _at: self.look())
        self.runs.rowsInserted.connect(lambda *_: self.look())
        self.runs.modelReset.connect(self.look)
        self.selectionModel().currentChanged.connect(self._taken)

    def current(self) -> Entry | None:
        """The run that is taken."""
        at = self.currentIndex().row()
        return self.runs.rows[at][1] if 0 <= at < len(self.runs.rows) else None

    def take(self, head: str) -> bool:
        """Take a run that is in the list."""
        at = next((at for at, (_, entry, _) in enumerate(self.runs.rows) if entry.head == head), None)
        if at is None:
            return False
        self.setCurrentIndex(self.runs.index(at))
        return True

    def look(self) -> None:
        """Ask for the pictures of what is in sight."""
        first = max(0, self.indexAt(self.viewport().rect().topLeft()).row())
        keys = []
        for _, entry, _ in self.runs.rows[first : first + self.viewport().height() // _ROW + 2]:
            key = "" if entry.ordered is None else entry.ordered.thumbnail
            if key and key not in self.runs.thumbs:
                keys.append(key)
        if keys:
            self._wants_thumbs(list(dict.fromkeys(keys)))

    def _taken(self, index: QModelIndex, _before: QModelIndex) -> None:
        if index.isValid():
            self.chosen.emit(self.runs.rows[index.row()][1])

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.look()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        letter = event.text().lower()
        if letter in ("v", "c") and not event.modifiers():
            self.asked.emit(letter)
        else:
            super().keyPressEvent(event)


def thumb_of(data: bytes, widget: QWidget) -> QPixmap:
    """A small picture of a file of the book; empty where it is none."""
    made = QPixmap()
    made.loadFromData(data)
    side = int(_THUMB * widget.devicePixelRatioF())
    if made.isNull():
        return QPixmap(side, side)
    return made.scaled(
        2 * side, 2 * side, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
