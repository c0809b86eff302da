"""Where in the hierarchy the drawing is: project, cell of the bench, and the blocks on the way; each a step back."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt

from hearthline.app.panels.label import Label
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme


class Breadcrumb(Label):
    """Follows bench and trail; a click on a name goes there."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.RichText)  # for the links; every name in it is escaped
        self.desk = desk
        self.setFont(text_font(12))
        self.setProperty("quiet", True)
        self.setContentsMargins(14, 10, 0, 0)
        self.linkActivated.connect(lambda link: desk.leave_block(int(link)))
        for signal in (desk.bench_changed, desk.trail_changed, desk.document_changed, theme.changed):
            signal.connect(self._show)

    def _show(self) -> None:
        desk = self.desk
        if not desk.project or not desk.top:
            self.setText("")
            return
        steps, teal = [escape(desk.top.name)], theme.color("teal").name()
        for length, block in enumerate(desk.trail, 1):
            steps[-1] = f'<a href="{length - 1}" style="color:{teal}">{steps[-1]}</a>'
            cell = desk.cell.name if length == len(desk.trail) else ""
            steps.append(escape(f"{block} ({cell})" if cell else block))
        self.setText(" › ".join([escape(desk.project.name), *steps]))
