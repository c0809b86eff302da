"""The current theme: one object that widgets ask for colours and that tells them when it changes."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QPalette
from PyQt6.QtWidgets import QApplication

from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.palette import DAY, NIGHT, Palette
from hearthline.app.theme.style import style_sheet


class Theme(QObject):
    """Holds the palette; `changed` is sent when it becomes another."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.palette: Palette = DAY
        self._applied: tuple[QApplication, Palette] | None = None

    def apply(self, palette: Palette) -> None:
        """Makes `palette` the look of the whole application; every widget is styled anew, where it is another."""
        application = QApplication.instance()
        if self._applied == (application, palette):
            return
        self.palette, self._applied = palette, (application, palette)
        application.setStyle("Fusion")
        application.setFont(text_font())
        application.setPalette(_qt_palette(palette))
        application.setStyleSheet(style_sheet(palette))
        self.changed.emit()

    def toggle(self) -> None:
        """Day to night and back."""
        self.apply(NIGHT if self.palette is DAY else DAY)

    def color(self, role: str, alpha: int = 255) -> QColor:
        """The colour of a role of the palette."""
        color = QColor(getattr(self.palette, role))
        color.setAlpha(alpha)
        return color


def _qt_palette(palette: Palette) -> QPalette:
    qt = QPalette()
    roles = QPalette.ColorRole
    pairs = {
        roles.Window: palette.panel, roles.WindowText: palette.ink, roles.Base: palette.paper,
        roles.AlternateBase: palette.panel, roles.Text: palette.ink, roles.Button: palette.panel,
        roles.ButtonText: palette.ink, roles.Highlight: palette.teal, roles.HighlightedText: palette.paper,
        roles.ToolTipBase: palette.raised, roles.ToolTipText: palette.ink, roles.PlaceholderText: palette.quiet,
    }  # fmt: skip
    for role, color in pairs.items():
        qt.setColor(role, QColor(color))
    return qt


theme = Theme()
"""The one theme of the application."""
