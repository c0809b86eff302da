"""The style sheet: what widgets look like in a palette."""

from __future__ import annotations

from hearthline.app.theme.palette import Palette


def style_sheet(p: Palette) -> str:
    """The application's style sheet in the colours of `p`."""
    return f"""
* {{ color: {p.ink}; }}
QMainWindow, QWidget#desk {{ background: {p.paper}; }}
QToolTip {{ background: {p.raised}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px 6px; }}
#topline, #shelf, #details {{ background: {p.panel}; }}
#hearth {{ background: {p.raised}; }}
#topline {{ border-bottom: 1px solid {p.line}; }}
#shelf {{ border-right: 1px solid {p.line}; }}
#details {{ border-left: 1px solid {p.line}; }}
#hearth {{ border-top: 1px solid {p.line}; }}
#sheet {{ background: {p.paper}; border-left: 1px solid {p.line}; }}
QLabel {{ background: transparent; }}
QLabel[quiet="true"] {{ color: {p.quiet}; }}
QLabel[wrong="true"] {{ color: {p.ember_ink}; }}
QLabel[live="true"] {{ color: {p.teal}; }}
QLabel[heading="true"] {{ font-weight: 600; color: {p.quiet}; }}
QLabel[title="true"] {{ font-weight: 600; font-size: 17px; }}
QPushButton {{ background: {p.paper}; border: 1px solid {p.line}; border-radius: 6px; padding: 4px 12px; }}
QPushButton:hover {{ border-color: {p.teal}; }}
QPushButton:focus {{ border-color: {p.teal}; }}
QPushButton:disabled {{ color: {p.quiet}; }}
QPushButton[chip="true"] {{ border-radius: 11px; padding: 3px 12px; min-height: 16px; max-height: 16px; }}
QPushButton[tight="true"] {{ padding: 3px 6px; font-size: 11px; }}
QPushButton[chip="true"]:checked {{ background: {p.teal}; color: {p.paper}; border-color: {p.teal}; }}
QPushButton[grid="true"] {{ background: {p.teal_wash}; color: {p.teal}; border-color: {p.teal_wash}; }}
QPushButton#run {{ background: {p.ember}; color: #FFFFFF; border: none; font-weight: 600; padding: 6px 18px; }}
QPushButton#run:disabled {{ background: {p.ash}; }}
QPushButton#bench {{ background: transparent; border: none; font-weight: 600; font-size: 15px; padding: 4px 6px; }}
QPushButton[plain="true"] {{ font-size: 11px; background: transparent; border: none; padding: 2px 6px; color: {p.quiet}; }}
QPushButton[plain="true"]:hover {{ color: {p.teal}; }}
QPushButton[plain="true"]:checked {{ background: {p.teal_wash}; border-radius: 4px; }}
QLineEdit {{ background: {p.paper}; border: 1px solid {p.line}; border-radius: 6px; padding: 4px 8px;
  selection-background-color: {p.teal}; selection-color: {p.paper}; }}
QLineEdit:focus {{ border-color: {p.teal}; }}
QLineEdit[wrong="true"] {{ border-color: {p.ember}; background: {p.ember_wash}; }}
QLineEdit[limit="true"] {{ background: transparent; border: 1px solid transparent; padding: 0 3px; border-radius: 3px; }}
QLineEdit[limit="true"]:hover, QLineEdit[limit="true"]:focus {{ background: {p.paper}; border-color: {p.line}; }}
QLineEdit[limit="true"][wrong="true"] {{ border-color: {p.ember}; background: {p.ember_wash}; }}
#devicetext {{ background: {p.paper}; border: none; border-top: 1px solid {p.line}; selection-background-color: {p.teal};
  selection-color: {p.paper}; }}
QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
QListWidget {{ background: {p.paper}; border: none; outline: none; }}
QListWidget::item {{ padding: 5px 8px; border-radius: 4px; }}
QListWidget::item:selected {{ background: {p.teal_wash}; color: {p.ink}; }}
QMenu {{ background: {p.paper}; border: 1px solid {p.line}; padding: 4px; }}
QMenu::item {{ padding: 5px 22px; border-radius: 4px; }}
QMenu::item:selected {{ background: {p.teal_wash}; color: {p.ink}; }}
#card {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 8px; }}
#card[wrong="true"] {{ background: {p.ember_wash}; border-color: {p.ember}; }}
#pointcard {{ background: {p.panel}; border: none; border-top: 1px solid {p.line}; }}
#pointcard[wrong="true"] {{ background: {p.ember_wash}; border-top-color: {p.ember}; }}
#overlay {{ background: {p.paper}; border: 1px solid {p.line}; border-radius: 10px; }}
QHeaderView {{ background: {p.paper}; border: none; }}
QHeaderView::section {{ background: {p.panel}; color: {p.quiet}; border: none; border-right: 1px solid {p.line};
  border-bottom: 1px solid {p.line}; padding: 3px 6px; font-size: 11px; }}
QTableView {{ background: {p.paper}; border: none; border-top: 1px solid {p.line}; }}
QPlainTextEdit {{ background: {p.paper}; border: 1px solid {p.line}; border-radius: 6px;
  selection-background-color: {p.teal}; selection-color: {p.paper}; }}
QProgressBar {{ background: {p.raised}; border: none; border-radius: 3px; }}
QSlider::groove:horizontal {{ background: {p.raised}; height: 4px; border-radius: 2px; }}
QSlider::handle:horizontal {{ background: {p.teal}; width: 12px; margin: -5px 0; border-radius: 6px; }}
QSlider::handle:horizontal:disabled {{ background: {p.line}; }}
QProgressBar::chunk {{ background: {p.ember}; border-radius: 3px; }}
QSplitter::handle {{ background: {p.line}; }}
QScrollBar:vertical {{ background: transparent; width: 8px; }}
QScrollBar::handle:vertical {{ background: {p.line}; border-radius: 4px; min-height: 24px; }}
QScrollBar:horizontal {{ background: transparent; height: 8px; }}
QScrollBar::handle:horizontal {{ background: {p.line}; border-radius: 4px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
"""
