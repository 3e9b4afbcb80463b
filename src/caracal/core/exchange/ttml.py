"""Captions in TTML (W3C Timed Text Markup Language 2, sections 7, 10 and 12; from memory).

Times are clocks with fractions or frames, or offsets in hours to ticks; what has none of its own
is seen with what holds it, and ``dur`` may stand in the place of ``end``.
"""

from __future__ import annotations

import re
from fractions import Fraction
from typing import NamedTuple
from xml.etree import ElementTree as Xml

LONGEST_S = 10  # of what is said to begin, and never to end
CLOCK = re.compile(r"(\d{2,}):(\d\d):(\d\d)(?:(\.\d+)|:(\d{2,})(?:\.(\d+))?)?")
OFFSET = re.compile(r"(\d+(?:\.\d+)?)(h|ms|m|s|f|t)")
HOLDERS = ("body", "div", "p")
NO_TEXT = ("metadata", "set")


class CaptionEvent(NamedTuple):
    """A caption as its file has it: seconds, text, and whether it had ``marked`` words."""

    start_s: float
    end_s: float
    text: str
    marked: bool = False


class _Clock:
    """Reads times as the root element ``tt`` says they are meant."""

    def __init__(self, root: Xml.Element) -> None:
        told = {_name(key): value for key, value in root.attrib.items()}
        rate, ticks = _number(told.get("frameRate")), _number(told.get("tickRate"))
        multiplier = [_number(part) for part in re.split(r"[\s:]+", told.get(
            "frameRateMultiplier", "").strip())]
        self.rate = rate or Fraction(30)
        if len(multiplier) == 2 and all(multiplier):
            self.rate *= Fraction(multiplier[0] or 1) / (multiplier[1] or 1)
        self.parts = _number(told.get("subFrameRate")) or Fraction(1)
        self.ticks = ticks or ((self.rate * self.parts) if rate else Fraction(1))

    def seconds(self, words: str | None) -> Fraction | None:
        """The time that ``words`` tell, in seconds; None where they tell none."""
        clock = CLOCK.fullmatch((words or "").strip())
        if clock:
            hours, minutes, whole, part, frames, parts = clock.groups()
            frame = Fraction(int(frames or 0)) + Fraction(int(parts or 0)) / self.parts
            return (int(hours) * 3600 + int(minutes) * 60 + int(whole) + Fraction(f"0{part or ''}")
                    + frame / self.rate)
        offset = OFFSET.fullmatch((words or "").strip())
        if not offset:
            return None
        unit = {"h": Fraction(3600), "m": Fraction(60), "s": Fraction(1), "ms": Fraction(1, 1000),
                "f": 1 / self.rate, "t": 1 / self.ticks}[offset[2]]
        return Fraction(offset[1]) * unit


def ttml_events(text: str) -> list[CaptionEvent]:
    """The captions in ``text``. Raises Xml.ParseError, or ValueError when it is no TTML."""
    root = Xml.fromstring(re.sub(r"\A\s*<\?xml[^>]*\?>", "", text))
    if _name(root.tag) != "tt":
        raise ValueError("no TTML")
    clock, found = _Clock(root), list[CaptionEvent]()
    body = next((child for child in root if _name(child.tag) == "body"), None)
    if body is not None:
        _gather(body, Fraction(0), None, clock, found)
    return found


def _gather(
    element: Xml.Element, since: Fraction, until: Fraction | None, clock: _Clock,
    found: list[CaptionEvent],
) -> Fraction | None:
    """Find the captions in ``element``, whose times count from ``since``; returns its end."""
    start, last = _times(element, since, until, clock)
    if _name(element.tag) == "p":
        _paragraph(element, start, last, clock, found)
        return last
    in_turn, at = element.get("timeContainer") == "seq", start
    for child in element:
        if _name(child.tag) in HOLDERS:
            ended = _gather(child, at if in_turn else start, last, clock, found)
            at = at if ended is None else ended
    return at if in_turn and last is None else last


def _times(
    element: Xml.Element, since: Fraction, until: Fraction | None, clock: _Clock
) -> tuple[Fraction, Fraction | None]:
    """When ``element`` begins and ends, if it does; ``since`` and ``until`` are those of what holds
    it."""
    start = since + (clock.seconds(element.get("begin")) or 0)
    end, lasts = clock.seconds(element.get("end")), clock.seconds(element.get("dur"))
    ends = [until, None if end is None else since + end, None if lasts is None else start + lasts]
    known = [each for each in ends if each is not None]
    return start, min(known) if known else None


def _paragraph(
    element: Xml.Element, start: Fraction, last: Fraction | None, clock: _Clock,
    found: list[CaptionEvent],
) -> None:
    """The captions of a paragraph: one, or one for each of its spans that come in turn."""
    timed = [child for child in element if child.get("begin") is not None]
    times = [_times(child, start, last, clock) for child in timed]
    if not timed or all(len(_text(child).split()) <= 1 for child in timed):  # or word by word
        begins = min([begin for begin, _ in times], default=start)
        ends = [end for _, end in times if end is not None]
        if last is None and ends:
            last = max(ends)
        found.append(_event(begins if element.get("begin") is None else start, last,
                            _text(element)))
        return
    rest = _one_line(element.text) + "".join(
        ("" if child in timed else _text(child)) + _one_line(child.tail) for child in element)
    found += [_event(*span, _text(child)) for span, child in zip(times, timed, strict=True)]
    if rest.strip():
        found.append(_event(start, last, rest))


def _event(start: Fraction, last: Fraction | None, text: str) -> CaptionEvent:
    return CaptionEvent(float(start), float(start + LONGEST_S if last is None else last), text)


def _text(element: Xml.Element) -> str:
    """The words in ``element``; breaks are those that it says, not those of its file."""
    if _name(element.tag) == "br":
        return "\n"
    if _name(element.tag) in NO_TEXT:
        return ""
    parts = [_one_line(element.text)]
    for child in element:
        parts += [_text(child), _one_line(child.tail)]
    return "".join(parts)


def _one_line(words: str | None) -> str:
    return re.sub(r"\s+", " ", words or "")


def _name(tag: str) -> str:
    """The name of a tag or attribute without its namespace: there have been several of TTML's."""
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def _number(words: str | None) -> Fraction | None:
    try:
        return Fraction(words.strip()) if words else None
    except (ValueError, ZeroDivisionError):
        return None
