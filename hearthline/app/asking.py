"""What the window asks by itself: files that changed, runs that are large, changes that were left over."""

from __future__ import annotations

from hearthline.app.panels.question import Question
from hearthline.app.state.desk import Desk


def ask_what_comes(desk: Desk, question: Question) -> None:
    """Puts what the desk wants to know or to say into the bar."""
    desk.said.connect(question.tell)
    desk.documents.edited_outside.connect(lambda cell: _ask_outside(desk, question, cell))
    desk.results.too_large.connect(lambda answer: _ask_size(desk, question, answer))
    desk.project_changed.connect(lambda: _offer_left_over(desk, question))


def _ask_outside(desk: Desk, question: Question, cell) -> None:
    """A cell's file was changed by another program."""
    answers = {
        "Take the file": lambda: desk.documents.take_outside(cell),
        "Keep mine": lambda: desk.documents.keep_mine(cell),
    }
    question.ask(f"{cell.name} was changed outside of this window.", answers)


def _ask_size(desk: Desk, question: Question, answer) -> None:
    """A run that would be very large."""
    names = answer.request.names
    answers = {"Run it all the same": lambda: desk.run(names, asked=True), "Leave it": lambda: None}
    question.ask(f"This run has {answer.size}.", answers)


def _offer_left_over(desk: Desk, question: Question) -> None:
    """Changes that an earlier window could not save."""
    found = desk.documents.left_over
    if found.documents or found.texts:
        names = ", ".join([*(document.name for document in found.documents), *found.texts])
        answers = {"Take them back": desk.documents.take_back, "Leave them": desk.documents.forget_left_over}
        question.ask(f"The last window ended with changes that were not saved ({names}).", answers)
