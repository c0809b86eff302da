"""What comes from files is shown letter by letter: no markup is drawn, and nothing is loaded because of it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QApplication, QToolTip

from hearthline.app.panels.label import Label, PlainTips
from tests.app.test_trouble import spoil

MARKUP = "<img src='file:///etc/passwd'><b>Kiln</b>"


def test_a_label_shows_what_it_is_given(qtbot):
    """Its height is that of one line of letters, whatever the letters are."""
    label, same = Label("<h1>x</h1>"), Label("(h1)x(/h1)")
    qtbot.addWidget(label)
    qtbot.addWidget(same)
    assert label.textFormat() == Qt.TextFormat.PlainText
    assert label.sizeHint().height() == same.sizeHint().height()


def test_the_path_to_a_cell_shows_names_as_they_are(opened, folder):
    """Links of its own, and nothing from the project's name."""
    spoil(folder, "project.toml", 'name = "Kilnwatch"', f'name = "{MARKUP}"')
    person = opened(folder)
    crumb = person.window.breadcrumb
    assert "&lt;img" in crumb.text()
    assert "<img" not in crumb.text()


def test_a_tool_tip_shows_what_it_is_given(qtbot):
    """Escaped where it could be taken for markup; others are left to Qt."""
    label = Label("x")
    qtbot.addWidget(label)
    label.show()
    tips = PlainTips(QApplication.instance())
    event = QHelpEvent(QEvent.Type.ToolTip, QPoint(1, 1), label.mapToGlobal(QPoint(1, 1)))
    label.setToolTip("1 is less than 2")
    assert not tips.eventFilter(label, event)
    label.setToolTip(MARKUP)
    assert tips.eventFilter(label, event)
    assert "&lt;img" in QToolTip.text()
    QToolTip.hideText()
