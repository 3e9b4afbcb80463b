"""A spec sheet as data, and the sheets that ship."""

from __future__ import annotations

import tomllib
from enum import StrEnum
from fractions import Fraction
from pathlib import Path

import msgspec

from caracal.core.errors import InputError
from caracal.core.framing.geometry import Frame, Shape
from caracal.core.resources import shipped


class Index(StrEnum):
    """Where a file's index lies."""

    FRONT = "front"
    ANY = "any"


class Duration(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Seconds a destination takes."""

    least_s: float = 0.0
    most_s: float = 86400.0


class Rates(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Frames a second a destination takes."""

    least: float = 24.0
    most: float = 60.0


class Video(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The picture's encoding. Bitrates in kb/s, the buffer in kb, the GOP in seconds."""

    bitrate_kbps: int
    largest_kbps: int
    buffer_kb: int
    codec: str = "h264"
    profile: str = "High"
    pixel_format: str = "yuv420p"
    gop_s: float = 2.0


class Sound(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The sound's encoding."""

    codec: str = "aac"
    bitrate_kbps: int = 128
    rate_hz: int = 48000
    channels: int = 2


class File(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Container, index and largest size in MB (10^6 bytes)."""

    container: str = "mp4"
    index: Index = Index.FRONT
    most_mb: float = 500.0


class Zone(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A rectangle of the canvas in shares of its width and height, and what lies there."""

    what: str
    left: float
    top: float
    width: float
    height: float


class SpecSheet(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Everything a destination asks of a file. ``canvas`` is (width, height) in pixels."""

    name: str
    title: str
    canvas: tuple[int, int]
    video: Video
    source: str
    checked: str
    duration: Duration = Duration()
    rates: Rates = Rates()
    sound: Sound = Sound()
    file: File = File()
    covers: tuple[Zone, ...] = ()
    clear: Zone | None = None

    @property
    def shape(self) -> Shape:
        """The canvas's shape."""
        return Shape.of(*self.canvas)

    @property
    def frame(self) -> Frame:
        """What framing must know of this sheet."""
        one = self.clear
        if one is None:
            return Frame(self.shape)
        return Frame(self.shape, ((one.left, one.left + one.width),
                                  (one.top, one.top + one.height)))

    def refuse_duration(self, seconds: float, what: str) -> None:
        """Raise InputError when ``seconds`` is shorter or longer than the sheet takes."""
        if seconds > self.duration.most_s:
            raise InputError(
                f"{what} runs {seconds:.1f} s and {self.name} takes at most "
                f"{self.duration.most_s:g} s.", remedy="Give a range with --from and --to.",
            )
        if seconds < self.duration.least_s:
            raise InputError(
                f"{what} runs {seconds:.1f} s and {self.name} takes no less than "
                f"{self.duration.least_s:g} s.", remedy="Choose a longer range.",
            )

    def refuse_rate(self, rate: Fraction) -> None:
        """Raise InputError when the sheet does not take ``rate``."""
        if not self.rates.least - 0.03 <= float(rate) <= self.rates.most:
            raise InputError(
                f"The film has {float(rate):.3f} frames a second and {self.name} takes "
                f"{self.rates.least:g} to {self.rates.most:g}.",
                remedy="Choose another spec sheet or convert the master's rate first.",
            )


def read_sheet(path: Path) -> SpecSheet:
    """Read a sheet from TOML; raises InputError with the reason when it is broken."""
    try:
        sheet = msgspec.convert(tomllib.loads(path.read_text(encoding="utf-8")), SpecSheet)
    except (tomllib.TOMLDecodeError, msgspec.ValidationError, UnicodeDecodeError) as problem:
        raise InputError(f"This spec sheet is broken ({problem}).", path, "Mend it.") from problem
    if any(side % 2 or side < 16 for side in sheet.canvas):
        raise InputError("The canvas of this spec sheet must have even sides.", path, "Mend it.")
    return sheet


def shipped_sheets() -> dict[str, SpecSheet]:
    """All sheets that ship, by name."""
    sheets = [read_sheet(path) for path in sorted(shipped("sheets").glob("*.toml"))]
    return {sheet.name: sheet for sheet in sheets}


def find_sheet(name: str) -> SpecSheet:
    """The sheet called ``name``; raises InputError that lists what there is."""
    sheets = shipped_sheets()
    if name not in sheets:
        raise InputError(f"There is no spec sheet “{name}”.",
                         remedy=f"There are: {', '.join(sheets)}.")
    return sheets[name]
