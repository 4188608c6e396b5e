"""A window that nobody sees: nothing is drawn, an audition waits, and a playing show goes on with its sounds."""

from __future__ import annotations

from PySide6.QtCore import QEventLoop, QTimer


def wait(milliseconds):
    """Wait in an event loop: the engine's thread gets its turns meanwhile."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def drawn_in(window, milliseconds):
    """Return how many pictures are drawn in some time."""
    renderer, count = window.engine._renderer, []
    real = renderer.draw
    renderer.draw = lambda *what, **named: (count.append(1), real(*what, **named))[1]
    wait(milliseconds)
    del renderer.draw
    return len(count)


def test_an_audition_waits_while_the_window_is_hidden_and_goes_on_with_it(qtbot, window):
    window.session.select("effect", "thunder-stamp")
    window.auditioning.toggle()
    qtbot.waitUntil(lambda: drawn_in(window, 200) > 1, timeout=20_000)
    window.hide()
    wait(300)
    assert drawn_in(window, 500) == 0
    window.show()
    qtbot.waitUntil(lambda: drawn_in(window, 200) > 1, timeout=20_000)


def test_a_playing_show_goes_on_unseen(qtbot, window):
    window.set_playing(True)
    qtbot.waitUntil(lambda: window.picture.rendered.time > 0.3, timeout=20_000)
    window.hide()
    wait(200)
    before = window.picture.rendered.time
    assert drawn_in(window, 600) == 0
    assert window.picture.rendered.time > before + 0.2
    window.show()
    qtbot.waitUntil(lambda: drawn_in(window, 200) > 0, timeout=20_000)
    window.set_playing(False)
