"""What can stand beside the drawing; a new view is a file of its own, and a line here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtWidgets import QWidget

from hearthline.app.charts.sheet import Sheet
from hearthline.app.guide import Guide
from hearthline.app.panels.device_table import DeviceTable
from hearthline.app.panels.findings_list import FindingsList
from hearthline.app.panels.netlist_view import NetlistView
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.core.registry import registry


@dataclass(frozen=True)
class Around:
    """What a view is made from."""

    desk: Desk
    editor: Editor
    guide: Guide


@dataclass(frozen=True)
class SideView:
    """A view by its `name`, which is its word in the row. It is made when it is first wanted, unless it takes part `at_once`.
    `count` is what stands behind the word when it is not 0."""

    name: str
    make: Callable[[Around], QWidget]
    at_once: bool = False
    count: Callable[[Desk], int] = lambda desk: 0


def _bench(around: Around) -> QWidget:
    from hearthline.app.panels.bench.view import (
        BenchView,  # these are imported late, so that the window is there sooner
    )

    return BenchView(around.desk)


def _conditions(around: Around) -> QWidget:
    from hearthline.app.pvt.view import PvtView

    return PvtView(around.desk)


def _runs(around: Around) -> QWidget:
    from hearthline.app.panels.logbook_view import LogbookView

    return LogbookView(around.desk)


def _spread(around: Around) -> QWidget:
    from hearthline.app.spread.view import SpreadView

    return SpreadView(around.desk, around.guide.device)


def _loops(around: Around) -> QWidget:
    from hearthline.app.panels.loops_view import LoopsView

    return LoopsView(around.desk, around.guide.device)


def _sizes(around: Around) -> QWidget:
    from hearthline.app.panels.sizes_view import SizesView

    return SizesView(around.desk, around.guide.device)


def _die(around: Around) -> QWidget:
    from hearthline.app.heat.view import DieView

    return DieView(around.desk)


def _housing(around: Around) -> QWidget:
    from hearthline.app.housing.view import HousingView

    return HousingView(around.desk)


def _interconnect(around: Around) -> QWidget:
    from hearthline.app.interconnect.view import InterconnectView

    return InterconnectView(around.desk)


def _matching(around: Around) -> QWidget:
    from hearthline.app.panels.matching_view import MatchingView

    return MatchingView(around.desk, around.guide.take_in_hand)


VIEWS: dict[str, SideView] = registry(
    "view",
    [
        SideView("charts", lambda around: Sheet(around.desk), at_once=True),
        SideView("bench", _bench),
        SideView("conditions", _conditions),
        SideView("spread", _spread),
        SideView("runs", _runs),
        SideView("devices", lambda around: DeviceTable(around.desk, around.guide.device)),
        SideView("loops", _loops),
        SideView("sizes", _sizes),
        SideView("matching", _matching),
        SideView("die", _die),
        SideView("housing", _housing),
        SideView("interconnect", _interconnect),
        SideView("netlist", lambda around: NetlistView(around.desk, around.guide.part)),
        SideView("findings", lambda around: FindingsList(around.desk, around.editor, around.guide.finding),
             count=lambda desk: len(desk.findings)),
    ],
)  # fmt: skip
"""In the order in which they stand in the row."""
