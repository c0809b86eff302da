"""Small pieces that several panels are made of."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLayout, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.theme.fonts import figure_font, text_font


def heading(text: str) -> Label:
    """The name of a section."""
    label = Label(text)
    label.setProperty("heading", True)
    label.setFont(text_font(12, bold=True))
    label.setContentsMargins(0, 8, 0, 2)
    return label


def quiet(text: str, wrap: bool = True) -> Label:
    """A line of help or context."""
    label = Label(text)
    label.setProperty("quiet", True)
    label.setFont(text_font(11))
    label.setWordWrap(wrap)
    return label


def pair(name: str, value: Label, tip: str = "") -> QWidget:
    """A name at the left and its value at the right."""
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    label = Label(name)
    label.setFont(text_font(12))
    value.setFont(figure_font(12))
    value.setAlignment(Qt.AlignmentFlag.AlignRight)
    layout.addWidget(label)
    layout.addWidget(value, 1)
    row.setToolTip(tip)
    return row


def chip(text: str, pressed: Callable[[], None], tip: str, checkable: bool = False) -> QPushButton:
    """A small round button."""
    button = QPushButton(text)
    button.setProperty("chip", True)
    button.setCheckable(checkable)
    button.setToolTip(tip)
    button.setFont(text_font(12))
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    button.clicked.connect(lambda _=False: pressed())
    return button


def clear(layout: QLayout) -> None:
    """Takes everything out of a layout."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget()
        if widget:
            widget.hide()
            widget.deleteLater()
        elif item.layout():
            clear(item.layout())


def offer(button: QWidget, entries: Iterable[tuple[str, Callable[[], None]]]) -> QMenu:
    """Opens a menu under `button`; each entry does its action."""
    menu = QMenu(button)
    menu.setFont(text_font())
    for text, action in entries:
        menu.addAction(text).triggered.connect(lambda _=False, action=action: action())
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.popup(button.mapToGlobal(button.rect().bottomLeft()))
    return menu


def scrolled(view: QWidget) -> QVBoxLayout:
    """A column that fills a view, and can be scrolled where it is longer."""
    outer, area, inner = QVBoxLayout(view), QScrollArea(), QWidget()
    outer.setContentsMargins(0, 0, 0, 0)
    outer.addWidget(area)
    area.setWidgetResizable(True)
    area.setFrameShape(QScrollArea.Shape.NoFrame)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(inner)
    column = QVBoxLayout(inner)
    column.setContentsMargins(14, 8, 14, 8)
    column.setSpacing(6)
    return column
