"""Ways for wires at right angles: around parts, across other nets but never along them or through their ends."""

from __future__ import annotations

import heapq
import math
from collections.abc import Iterable
from itertools import pairwise

from hearthline.core.elements.kind import Point

Box = tuple[float, float, float, float]
Way = tuple[Point, ...]

BEND, CROSSING, BODY = 4.0, 3.0, 12.0
"""What a bend, a crossing and a step through the body of a part cost, in steps of wire."""

STEPS = ((1, 0), (0, 1), (-1, 0), (0, -1))
ALONG_ROW, ALONG_COLUMN = 1, 2
MARGIN, MOST_PLACES = 16, 30_000


class Field:
    """What stands in the way of one net: places it must not touch, pieces of other wires, bodies of parts; within a `region`
    where one is given, because no way leads out of it."""

    def __init__(self, region: Box | None = None) -> None:
        self.region = region
        self.blocked: set[Point] = set()
        self.passing: dict[Point, int] = {}
        self.bodies: dict[Point, None] = {}

    def block(self, points: Iterable[Point]) -> None:
        """Terminals, pins and labels of other nets."""
        if self.region is None:
            self.blocked.update(points)
            return
        left, top, right, bottom = self.region
        self.blocked.update(p for p in points if left <= p[0] <= right and top <= p[1] <= bottom)

    def add_wire(self, points: Way) -> None:
        """A wire of another net: its ends and bends are blocked, the rest can be crossed."""
        if self._outside(bounds_of(points)):
            return
        self.blocked.update(points)
        for a, b in pairwise(points):
            mark = ALONG_ROW if a[1] == b[1] else ALONG_COLUMN if a[0] == b[0] else ALONG_ROW | ALONG_COLUMN
            for point in steps_between(a, b):
                self.passing[point] = self.passing.get(point, 0) | mark

    def add_body(self, box: Box) -> None:
        """The inside of a part, its edge included; wires go around it where they can."""
        if self._outside(box):
            return
        for x in range(math.ceil(box[0]), math.floor(box[2]) + 1):
            for y in range(math.ceil(box[1]), math.floor(box[3]) + 1):
                self.bodies[x, y] = None

    def _outside(self, box: Box) -> bool:
        region = self.region
        if region is None:
            return False
        return box[2] < region[0] or box[0] > region[2] or box[3] < region[1] or box[1] > region[3]

    def cost(self, way: Way) -> float:
        """What a way costs; infinite where it would touch another net."""
        total = BEND * (len(way) - 2)
        if any(point in self.blocked or point in self.passing for point in way):
            return math.inf
        for a, b in pairwise(way):
            mark = ALONG_ROW if a[1] == b[1] else ALONG_COLUMN if a[0] == b[0] else 0
            if not mark:
                return math.inf
            for point in steps_between(a, b)[1:]:
                there = self.passing.get(point, 0)
                if point in self.blocked or there & mark:
                    return math.inf
                total += 1.0 + (CROSSING if there else 0.0) + (BODY if point in self.bodies else 0.0)
        return total


def bounds_of(points: Way) -> Box:
    """The box around some places."""
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    return min(xs), min(ys), max(xs), max(ys)


def region_of(points: Way) -> Box:
    """Where a way between places may lead."""
    left, top, right, bottom = bounds_of(points)
    return left - MARGIN - 1, top - MARGIN - 1, right + MARGIN + 1, bottom + MARGIN + 1


def steps_between(a: Point, b: Point) -> list[Point]:
    """Every grid place from `a` to `b` on a straight line, both included; of a slanted one those it meets."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    count = math.gcd(dx, dy)
    return [(a[0] + k * dx // count, a[1] + k * dy // count) for k in range(count + 1)] if count else [a]


def simple_ways(start: Point, end: Point) -> list[Way]:
    """The straight way, or the ways with one and with two bends."""
    (x1, y1), (x2, y2) = start, end
    if x1 == x2 or y1 == y2:
        return [(start, end)]
    middle_x, middle_y = (x1 + x2) // 2, (y1 + y2) // 2
    ways = [(start, (x2, y1), end), (start, (x1, y2), end)]
    if middle_x not in (x1, x2):
        ways.append((start, (middle_x, y1), (middle_x, y2), end))
    if middle_y not in (y1, y2):
        ways.append((start, (x1, middle_y), (x2, middle_y), end))
    return ways


def route(start: Point, end: Point, field: Field) -> Way:
    """The cheapest way; where there is none the straight line, slanted if need be."""
    if start == end:
        return (start, end)
    best = min(simple_ways(start, end), key=field.cost)
    bends = BEND * (0 if start[0] == end[0] or start[1] == end[1] else 1)
    if field.cost(best) <= abs(start[0] - end[0]) + abs(start[1] - end[1]) + bends:
        return best
    return _search(start, end, field) or (start, end)


def _search(start: Point, end: Point, field: Field) -> Way | None:
    """A* over places and directions."""
    low_x, high_x = min(start[0], end[0]) - MARGIN, max(start[0], end[0]) + MARGIN
    low_y, high_y = min(start[1], end[1]) - MARGIN, max(start[1], end[1]) + MARGIN
    queue: list[tuple[float, float, Point, int]] = [(0.0, 0.0, start, -1)]
    best: dict[tuple[Point, int], float] = {(start, -1): 0.0}
    before: dict[tuple[Point, int], tuple[Point, int]] = {}
    blocked, passing, bodies = field.blocked, field.passing, field.bodies
    tried = 0
    while queue and tried < MOST_PLACES:
        _, cost, here, heading = heapq.heappop(queue)
        if here == end:
            return _traced((here, heading), before)
        if cost > best[here, heading]:
            continue
        tried += 1
        straight_only = here in passing and here != start
        for way, (dx, dy) in enumerate(STEPS):
            if heading >= 0 and ((straight_only and way != heading) or (way - heading) % 4 == 2):
                continue
            there = (here[0] + dx, here[1] + dy)
            if not (low_x <= there[0] <= high_x and low_y <= there[1] <= high_y) or there in blocked:
                continue
            across = passing.get(there, 0)
            if across & (ALONG_ROW if dy == 0 else ALONG_COLUMN) or (across and there == end):
                continue
            step = 1.0 + (CROSSING if across else 0.0) + (BODY if there in bodies and there != end else 0.0)
            total = cost + step + (BEND if heading >= 0 and way != heading else 0.0)
            if total < best.get((there, way), math.inf):
                best[there, way] = total
                before[there, way] = (here, heading)
                rest = abs(there[0] - end[0]) + abs(there[1] - end[1])
                heapq.heappush(queue, (total + rest, total, there, way))
    return None


def _traced(state: tuple[Point, int], before: dict[tuple[Point, int], tuple[Point, int]]) -> Way:
    points, headings = [state[0]], [state[1]]
    while state in before:
        state = before[state]
        points.append(state[0])
        headings.append(state[1])
    points.reverse()
    headings.reverse()
    bends = [k for k in range(1, len(points) - 1) if headings[k] != headings[k + 1]]
    return (points[0], *(points[k] for k in bends), points[-1])
