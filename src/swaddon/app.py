"""The composition root: the only place that wires everything together."""

import sys
import threading


def run(start: str | None = None) -> int:
    """Open the bench on a job file, an artwork, the code of a card, or the demo's first job; returns the exit code."""
    from PySide6.QtWidgets import QApplication

    from swaddon.io import outputs
    from swaddon.io.whole import sweep
    from swaddon.session.preferences import load_preferences
    from swaddon.session.session import Session
    from swaddon.ui import theme, wiring
    from swaddon.ui.bench import Bench

    outputs.begin(has_window=True)
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Swaddon")
    preferences = load_preferences()
    theme.load_fonts()
    theme.apply(preferences.scheme)
    bench = Bench(Session(), preferences)
    bench.show()
    sweep()
    is_left = bench.files.recover()
    if start is not None:
        wiring.open_start(bench, bench.files, start)
    elif not is_left:
        bench.files.open_demo("lantern")
    threading.Thread(target=lambda: bench.tell_later(prepare()), name="prepare", daemon=True).start()
    return int(app.exec())


def prepare() -> str:
    """Load the kernels, or compile them at the very first start; until then the plain way serves.

    Gives a sentence when they cannot be kept, so that plans stay slow.
    """
    from swaddon.core import fast
    from swaddon.io import apart
    from swaddon.io.tables import cache_folder

    apart.begin()
    try:
        if not fast.enable(cache_folder()):
            fast.compile_all(cache_folder())
    except OSError as error:
        why = (error.strerror or "the system refused it").lower()
        return f"Nothing can be kept in {cache_folder()} ({why}): Swaddon works, but plans take longer."
    return ""
