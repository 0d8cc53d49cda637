"""Taking widgets away whose place others take: the one door, so that no rebuild touches what somebody has at hand.

Qt gives the focus of a hidden widget to the next one in the chain, which may be a field elsewhere, and a field that
loses it enters what is half typed.
"""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication, QLayout, QWidget

from swaddon.ui.fields import TextField

_WAITS = "is rebuilt"


def take_away(widget: QWidget, layout: QLayout) -> None:
    """Take a widget out of a layout for good.

    The focus in it goes to the widget of the same kind and name that is there once all is rebuilt, with what was half
    typed, else to the box round it, from where Tab goes on; what is half typed in it is never entered.
    """
    held, box = QApplication.focusWidget(), widget.parentWidget()
    if held is not None and box is not None and (held is widget or widget.isAncestorOf(held)):
        _hand_over(held, box)
    if box is not None and not box.property(_WAITS):
        box.setProperty(_WAITS, True)
        QTimer.singleShot(0, box, lambda: _chain(box))
    layout.removeWidget(widget)
    widget.hide()
    widget.deleteLater()


def clear(layout: QLayout) -> None:
    """Take every widget out of a layout."""
    while (item := layout.itemAt(0)) is not None:
        widget = item.widget()
        if widget is None:
            layout.takeAt(0)
        else:
            take_away(widget, layout)


def _hand_over(held: QWidget, box: QWidget) -> None:
    kind, name, typed = type(held), _name(held), ""
    if isinstance(held, TextField):
        typed = held.text() if held.is_typed else ""
        held.revert()
    box.setFocus(Qt.FocusReason.OtherFocusReason)

    def back() -> None:
        if QApplication.focusWidget() is not box:
            return  # somebody has gone elsewhere since
        made = next((item for item in box.findChildren(kind) if _name(item) == name and not _is_hidden(item)), None)
        if made is None or not made.isEnabled():
            return
        made.show()  # a layout shows what was added to it a little later than this
        made.setFocus(Qt.FocusReason.OtherFocusReason)
        if typed and isinstance(made, TextField):
            made.type_on(typed)

    QTimer.singleShot(0, box, back)


def _chain(box: QWidget) -> None:
    """Let Tab go through what was made anew where it stands: Qt puts it behind all else in the window."""
    box.setProperty(_WAITS, False)
    last, policy = box, box.focusPolicy()
    box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)  # nothing can be put behind what takes no focus
    for item in box.findChildren(QWidget):
        if _takes_focus(item) and not _is_hidden(item):
            QWidget.setTabOrder(last, item)
            last = item
    box.setFocusPolicy(policy)


def _takes_focus(widget: QWidget) -> bool:
    return widget.focusPolicy() != Qt.FocusPolicy.NoFocus


def _is_hidden(widget: QWidget) -> bool:
    """Whether somebody has hidden it; what only waits to be shown is not."""
    return widget.isHidden() and widget.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide)


def _name(widget: QWidget) -> str:
    return widget.accessibleName() or str(widget.property("text") or "")
