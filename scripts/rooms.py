"""Draws docs/rooms.svg: which room imports which, read from the code itself.

Rooms stand above those they import. An arrow that another way already says is left out.
"""

from __future__ import annotations

import sys
from graphlib import TopologicalSorter
from pathlib import Path

import grimp

WIDE, HIGH, GAP, BETWEEN, EDGE = 118, 34, 16, 64, 24
PAPER, BOX, LINE, WORDS = "#fbf8f2", "#e9dfcd", "#8a6a3a", "#2b2118"
FONT = "font-family='sans-serif' font-size='13' text-anchor='middle'"
Rooms = dict[str, set[str]]


def imports() -> Rooms:
    """For each room of the program those it imports; ``core.convert`` is the core's door."""
    graph = grimp.build_graph("caracal", cache_dir=None)
    found: Rooms = {}
    for module in graph.modules:
        mine = _room(module)
        if mine:
            theirs = {_room(other) for other in graph.find_modules_directly_imported_by(module)}
            found.setdefault(mine, set()).update(theirs - {mine, ""})
    return found


def _room(module: str) -> str:
    parts = module.split(".")[1:]
    if not parts or parts in (["core"], ["ui"]) or parts[0] == "__main__":
        return ""
    return ".".join(parts[:2]) if parts[0] in ("core", "ui") else parts[0]


def ranks(rooms: Rooms) -> dict[str, int]:
    """How high each room stands: one above the highest it imports."""
    found: dict[str, int] = {}
    for room in TopologicalSorter(rooms).static_order():
        found[room] = max((found[other] + 1 for other in rooms.get(room, ())), default=0)
    return found


def needed(rooms: Rooms) -> Rooms:
    """``rooms`` without arrows that a longer way already says."""
    def reach(room: str) -> set[str]:
        below = rooms.get(room, set())
        return below | {far for near in below for far in reach(near)}

    return {room: {other for other in below
                   if not any(other in reach(near) for near in below - {other})}
            for room, below in rooms.items()}


def drawn(rooms: Rooms) -> str:
    """The picture as SVG."""
    rank = ranks(rooms)
    rows = [sorted(room for room in rank if rank[room] == level)
            for level in range(max(rank.values()) + 1)]
    width = max(map(len, rows)) * (WIDE + GAP) - GAP + 2 * EDGE
    height = len(rows) * (HIGH + BETWEEN) - BETWEEN + 2 * EDGE
    middle: dict[str, tuple[float, float]] = {}
    for level, row in enumerate(rows):
        left = (width - len(row) * (WIDE + GAP) + GAP) / 2
        top = height - EDGE - HIGH - level * (HIGH + BETWEEN)
        for place, room in enumerate(row):
            middle[room] = (left + place * (WIDE + GAP) + WIDE / 2, top + HIGH / 2)
    lines = [f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 {width} {height}'>",
             f"<rect width='{width}' height='{height}' fill='{PAPER}'/>"]
    for room, below in sorted(needed(rooms).items()):
        for other in sorted(below):
            (x, y), (to_x, to_y) = middle[room], middle[other]
            bend = (to_y - y) / 2
            lines.append(f"<path d='M{x:g} {y + HIGH / 2:g}C{x:g} {y + bend:g} {to_x:g} "
                         f"{to_y - bend:g} {to_x:g} {to_y - HIGH / 2:g}' fill='none' "
                         f"stroke='{LINE}' opacity='0.55'/>")
    for room, (x, y) in sorted(middle.items()):
        lines.append(f"<rect x='{x - WIDE / 2:g}' y='{y - HIGH / 2:g}' width='{WIDE}' "
                     f"height='{HIGH}' rx='5' fill='{BOX}' stroke='{LINE}'/>"
                     f"<text x='{x:g}' y='{y + 4.5:g}' fill='{WORDS}' {FONT}>{room}</text>")
    return "\n".join([*lines, "</svg>", ""])


if __name__ == "__main__":
    Path(sys.argv[1] if len(sys.argv) > 1 else "docs/rooms.svg").write_text(
        drawn(imports()), encoding="utf-8")
