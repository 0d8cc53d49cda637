"""Small findings fold into one line of the list and open with one press; one alone stands as it is."""

from tests.ui.patience import as_soon_as

from swaddon.core.findings import Finding
from swaddon.ui.findings_panel import FindingsPanel


def finding(code: str, size: float, severity="note") -> Finding:
    return Finding(code, severity, f"{code} of {size:g} mm²", 1.0, 1.0, size, "mm²")


def shown(panel: FindingsPanel) -> list[str]:
    return [row.finding.code for row in panel.rows if row.isVisibleTo(panel)]


def test_small_ones_fold_and_open(qtbot):
    panel = FindingsPanel()
    qtbot.addWidget(panel)
    panel.resize(320, 300)
    panel.show()
    panel.show_findings((finding("a", 900), finding("d", 20, "stop"), finding("b", 40), finding("c", 30)))
    as_soon_as(panel.rows[0].isVisible)
    assert shown(panel) == ["a", "d"]
    assert panel.small.text().startswith("2 more, under 1 cm²")
    assert "4" in panel._head.text()
    panel.small.setFocus()
    qtbot.keyClick(panel.small, " ")
    assert shown(panel) == ["a", "d", "b", "c"]
    assert panel.small.isHidden()
    panel.show_findings((finding("a", 900), finding("b", 40)))
    as_soon_as(panel.rows[0].isVisible)
    assert shown(panel) == ["a", "b"]
    assert panel.small is None


def test_what_one_cause_tells_already_stands_no_second_time(qtbot):
    panel = FindingsPanel()
    qtbot.addWidget(panel)
    panel.show_findings((finding("a", 900), Finding("b", "note", "b", 1, 1, 880, "mm²", cause="a")))
    assert [row.finding.code for row in panel.rows] == ["a"]
