"""What markers, menus and files may ask of the charts."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from hearthline.app.charts.curves import Trace
    from hearthline.app.charts.family import CurveFamily
    from hearthline.app.charts.strip import Strip
    from hearthline.app.state.desk import Desk
    from hearthline.app.state.results import Results
    from hearthline.core.bench.bench import Watch


class Charts(Protocol):
    """Strips below each other with one axis; `family` is how their lanes are grouped, `with_points` whether each computed point
    has a dot."""

    desk: Desk
    results: Results
    strips: list[Strip]
    family: CurveFamily | None
    with_points: bool

    @property
    def traces(self) -> list[Trace]:
        """All curves."""

    def strip_read(self) -> Strip | None:
        """The strip that the pointer was over last."""

    def lane_read(self) -> int:
        """The lane that the cursor reads."""

    def change_watch(self, watch: Watch, new: Watch | None, text: str) -> None:
        """Another watch in the place of one, or none."""

    def join(self, watch: Watch, other: Watch | None) -> None:
        """Puts a watch into the strip of another, or into one of its own."""

    def show_points(self, shown: bool) -> None:
        """A dot at each computed point."""

    def set_log_x(self, log: bool | None) -> None:
        """An axis in decades or not."""

    def fit(self) -> None:
        """Everything in view."""

    def zoom_back(self) -> None:
        """The ranges before the last zoom."""
