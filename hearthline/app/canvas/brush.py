"""What all painters of the canvas share: where the grid lies, what is shown on it, and how texts are written."""

from __future__ import annotations

from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QTransform

from hearthline.app.canvas.scene import Box, Scene
from hearthline.app.state.selection import Selection
from hearthline.app.state.values import PointValues
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.edit.picked import NOTHING, Picked
from hearthline.core.circuit.instance import Instance
from hearthline.core.circuit.rules.finding import Finding


@dataclass(frozen=True)
class View:
    """Where the grid lies on the screen: pixels a step and the position of the grid's origin."""

    scale: float
    x: float
    y: float

    def to_screen(self, x: float, y: float) -> QPointF:
        """A place of the grid on the screen."""
        return QPointF(self.x + x * self.scale, self.y + y * self.scale)

    def to_grid(self, position: QPointF) -> tuple[float, float]:
        """A place of the screen on the grid."""
        return (position.x() - self.x) / self.scale, (position.y() - self.y) / self.scale

    @property
    def transform(self) -> QTransform:
        """From the grid to the screen."""
        return QTransform(self.scale, 0, 0, self.scale, self.x, self.y)


@dataclass(frozen=True)
class Look:
    """What is shown on top of the circuit; `instance` tells what its parts and nets are called in the results, `pin_currents`
    are those into selected blocks, `watched` the terminals whose current is charted, `warm`
    the terminals that come near to oscillating with their heat (of a block the warmest inside it, terminal "")."""

    selection: Selection
    picked: Picked = NOTHING
    lit_net: str = ""
    point: PointValues | None = None
    stale: bool = False
    columns: dict[str, tuple[str, ...]] = field(default_factory=dict)
    trouble: str = ""
    instance: Instance | None = None
    findings: tuple[Finding, ...] = ()
    pin_currents: dict[str, dict[str, float]] = field(default_factory=dict)
    watched: tuple[tuple[str, str], ...] = ()
    warm: tuple[tuple[str, str, float], ...] = ()


class Brush:
    """Writes and draws on the screen with the sizes of a view; what all painters of the canvas share."""

    def __init__(self, painter: QPainter, scene: Scene, view: View, look: Look):
        self.painter, self.scene, self.view, self.look = painter, scene, view, look
        self.hair = 1.0 if view.scale < 8 else 1.4
        left, top = view.to_grid(QPointF(0, 0))
        right, bottom = view.to_grid(QPointF(painter.device().width(), painter.device().height()))
        self.room: Box = (left - 14, top - 4, right + 4, bottom + 4)

    def visible(self, at: tuple[float, float]) -> bool:
        """Whether something at a place can be seen."""
        left, top, right, bottom = self.room
        return left <= at[0] <= right and top <= at[1] <= bottom

    @property
    def live_role(self) -> str:
        """The colour of what was solved; quiet where it is from before."""
        return "quiet" if self.look.stale else "teal"

    def text(
        self, at: QPointF, text: str, role: str = "ink", bold: bool = False, font: QFont | None = None, size: int = 12
    ) -> float:
        """Writes from `at` on; how wide it came out."""
        font = font or text_font(size, bold)
        self.painter.setFont(font)
        self.painter.setPen(theme.color(role))
        self.painter.drawText(at, text)
        return QFontMetricsF(font).horizontalAdvance(text)

    def screen_box(self, box: Box) -> QRectF:
        """A box of the grid on the screen."""
        return QRectF(self.view.to_screen(*box[:2]), self.view.to_screen(*box[2:]))
