"""The thread that answers questions for the window."""

from __future__ import annotations

import sys

from hearthline.app.state.worker import NewestWins


def test_a_fault_is_told_and_the_thread_goes_on(qtbot, monkeypatch):
    """What nobody foresaw refuses its question, shows its trace, and the next question is answered."""
    traces = []
    monkeypatch.setattr(sys, "excepthook", lambda *fault: traces.append(fault))
    worker = NewestWins("test")
    try:
        with qtbot.waitSignal(worker.refused) as refused:
            worker.ask(lambda report: 1 / 0)
        assert "division by zero" in str(refused.args[0])
        assert traces[0][0] is ZeroDivisionError
        with qtbot.waitSignal(worker.answered) as answered, qtbot.waitSignal(worker.told) as told:
            worker.ask(lambda report: report("on the way") or 7)
        assert (answered.args[0], told.args[0]) == (7, "on the way")
    finally:
        worker.close()
