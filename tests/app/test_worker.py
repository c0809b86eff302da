"""The thread that answers questions for the window."""

from __future__ import annotations

import sys
import threading

from hearthline.app.state.asked import Asked
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


class Anything(Asked):
    """Asks what a test says."""

    def ask(self, make) -> None:
        """Of (job)."""
        self._question(make)


def test_what_is_not_wanted_any_more_is_stopped(qtbot):
    """By the next question: who asks again, or closes, does not wait for what nobody reads."""
    asked, begun, ended = Anything("test"), threading.Event(), threading.Event()

    def long(job) -> str:
        begun.set()
        while not job.stopped:
            ended.wait(1e-3)
        return "old"

    try:
        asked.ask(long)
        assert begun.wait(30)
        asked.ask(lambda job: "new")
        qtbot.waitUntil(lambda: asked.found is not None, timeout=30000)
        assert asked.found == "new"
        assert not asked.busy
    finally:
        asked.close()
