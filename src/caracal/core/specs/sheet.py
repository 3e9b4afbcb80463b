"""A spec sheet as data, and the sheets that ship."""

from __future__ import annotations

from datetime import date
from enum import StrEnum
from fractions import Fraction

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.geometry import FramingSpec, Region, Shape
from caracal.core.base.time import STANDARD_RATES, standard_rate
from caracal.core.base.translation import counted, mark, tr
from caracal.core.specs.codecs import SOUND, VIDEO, SoundCodec, VideoCodec

QUICK_RATE = 30  # frames a second above which a sheet may want more bits
LOSSLESS_BITS = 24  # a sample
CLOSE = 0.0011  # of a rate: 23.976 is 24 to a destination, 59.94 is 60
MOST_PARTS = 11  # of a rate: 240 fps for 24
SIZED = "@"  # between a sheet's name and the canvas it is for
OLD_DAYS = 180  # destinations change their rules: after so long somebody should look again


class Index(StrEnum):
    """Where a file's index lies."""

    FRONT = mark("front")
    ANY = mark("any")


def base_name(name: str) -> str:
    """The sheet's own name, without the canvas it is sized for."""
    return name.partition(SIZED)[0]


class Beyond(StrEnum):
    """What to do with a version that is longer than its destination takes."""

    REFUSE = mark("refuse")
    TRIM = mark("trim")
    PARTS = mark("parts")


class RateChange(StrEnum):
    """What to do with a film whose rate a destination does not take."""

    REFUSE = mark("refuse")
    REPEAT = mark("repeat")  # pictures are dropped or doubled
    BLEND = mark("blend")  # neighbouring pictures are mixed


class Captions(StrEnum):
    """How a destination wants captions."""

    BURN_IN = mark("burn-in")
    SIDECAR = mark("sidecar")
    BOTH = mark("both")


class CaptionFormat(StrEnum):
    """The kind of file in which captions come beside a movie."""

    SRT = "srt"
    VTT = "vtt"
    ASS = "ass"


class Duration(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Seconds a destination takes, and what to do with more."""

    least_s: float = 0.0
    most_s: float = 86400.0
    beyond: Beyond = Beyond.REFUSE

    def kept_s(self, seconds: float) -> float:
        """What is made of a version of ``seconds``: less where it is trimmed."""
        return min(seconds, self.most_s) if self.beyond is Beyond.TRIM else seconds


class Rates(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Frames a second a destination takes: from least to most, or ``only`` these.

    A film of another rate is refused, or brought to the nearest rate as ``change`` says.
    """

    least: float = 24.0
    most: float = 60.0
    only: tuple[float, ...] = ()
    change: RateChange = RateChange.REFUSE

    def take(self, rate: Fraction) -> bool:
        """Whether ``rate`` is one of them; 23.976 counts as 24."""
        return self.least * (1 - CLOSE) <= rate <= self.most * (1 + CLOSE) and (
            not self.only or any(abs(rate / value - 1) < CLOSE for value in self.only))

    def nearest(self, rate: Fraction) -> Fraction:
        """The rate to bring ``rate`` to: itself, an even part or multiple, else the nearest.

        Even parts and multiples come first: every picture is then seen for the same time.
        """
        if self.take(rate):
            return rate
        even = [
            candidate
            for n in range(2, MOST_PARTS)
            for candidate in (rate / n, rate * n)
            if self.take(candidate)
        ]
        named = [standard_rate(value) for value in self.only or (self.most,)]
        others = [
            candidate
            for candidate in (*named, *(() if self.only else STANDARD_RATES))
            if self.take(candidate)
        ]
        return min(even or others or [rate], key=lambda candidate: abs(candidate - rate))


class Video(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The picture's encoding. Bitrates in kb/s, the buffer in kb, the GOP in seconds.

    ``quick_kbps`` is the target above 30 frames a second, where it differs. Codecs whose pictures
    all stand alone take what they take: their bitrates are None. ``quality`` (the encoder's own
    scale, lower is better) takes the place of the target; the bounds stay. With two ``passes`` the
    bits are spread over the whole file.
    """

    bitrate_kbps: int | None = None
    largest_kbps: int | None = None
    buffer_kb: int | None = None
    quick_kbps: int | None = None
    codec: str = "h264"
    profile: str = "High"
    pixel_format: str = "yuv420p"
    gop_s: float = 2.0
    passes: int = 1
    quality: float | None = None

    @property
    def family(self) -> VideoCodec:
        """What the codec can do; of a checked sheet."""
        return VIDEO[self.codec]

    def target_kbps(self, rate: Fraction) -> int | None:
        """The bitrate to aim at, at ``rate`` frames a second."""
        return self.quick_kbps if self.quick_kbps and rate > QUICK_RATE else self.bitrate_kbps


class Sound(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The sound's encoding, and its loudness (ITU-R BS.1770).

    ``loudness_lufs`` None leaves the level as it is; no peak goes beyond ``true_peak_dbtp``.
    ``silent_track``: a film without sound gets a silent one.
    """

    codec: str = "aac"
    bitrate_kbps: int = 128
    rate_hz: int = 48000
    channels: int = 2
    loudness_lufs: float | None = None
    true_peak_dbtp: float = -1.0
    silent_track: bool = False

    @property
    def family(self) -> SoundCodec:
        """What the codec can do; of a checked sheet."""
        return SOUND[self.codec]

    @property
    def block_s(self) -> float:
        """How long the blocks are, in seconds, of which the encoder makes whole ones."""
        return self.family.block / self.rate_hz

    @property
    def kbps(self) -> int:
        """What it takes: as asked, or every bit where nothing is lost."""
        every = self.rate_hz * self.channels * LOSSLESS_BITS // 1000
        return every if self.family.lossless else self.bitrate_kbps


class File(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Container, index, largest size in MB (10^6 bytes), and the pattern of names."""

    container: str = "mp4"
    index: Index = Index.FRONT
    most_mb: float = 500.0
    names: str = "{film} {sheet} {part}"


class Zone(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A rectangle of the canvas in shares of its width and height, and what lies there."""

    what: str
    left: float
    top: float
    width: float
    height: float

    @property
    def part(self) -> Region:
        """Its sides in shares of the canvas."""
        return (self.left, self.left + self.width), (self.top, self.top + self.height)


class SpecSheet(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Everything a destination asks of a file. ``canvas`` is (width, height) in pixels.

    One that takes canvases ``as_made`` takes any: ``canvas`` is what it has of itself, and
    :meth:`sized` is the same sheet for another.
    ``thumbnail_cut`` is what its grid shows of a picture, ``edge_trim`` what taller phones leave of
    it. ``checked`` is the day (YYYY-MM-DD) on which ``source`` was looked at.
    """

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
    thumbnail_cut: Zone | None = None
    edge_trim: Zone | None = None
    captions: Captions = Captions.BURN_IN
    captions_as: CaptionFormat = CaptionFormat.SRT
    as_made: bool = False

    def sized(self, canvas: tuple[int, int]) -> SpecSheet:
        """This sheet for another canvas; its name says which, such as ``master@1080x1920``."""
        width, height = canvas
        name = f"{base_name(self.name)}{SIZED}{width}x{height}"
        return msgspec.structs.replace(self, name=name, canvas=canvas)

    @property
    def headline(self) -> str:
        """Returns its title with its canvas, as one line."""
        size = tr("as made") if self.as_made else f"{self.canvas[0]} × {self.canvas[1]}"
        return f"{self.title}, {size}"

    @property
    def shape(self) -> Shape:
        """Returns the shape of the canvas, width to height."""
        return Shape.of(*self.canvas)

    @property
    def frame(self) -> FramingSpec:
        """What framing must know of this sheet."""
        return FramingSpec(self.shape, self.clear.part if self.clear else None, self.canvas)

    def rates_text(self) -> str:
        """The rates it takes, in words."""
        rates = self.rates
        if rates.only:
            return " or ".join(f"{value:g}" for value in rates.only)
        return tr("{least:g} to {most:g}", least=rates.least, most=rates.most)

    def days_since_checked(self, today: date) -> int | None:
        """How long ago its rules were looked at; None when ``checked`` is no date."""
        try:
            return (today - date.fromisoformat(self.checked)).days
        except ValueError:
            return None

    def reminder(self, today: date) -> str | None:
        """What to say of rules that nobody has looked at for OLD_DAYS; None when somebody has."""
        days = self.days_since_checked(today)
        if days is not None and days <= OLD_DAYS:
            return None
        when = (tr("on no known day") if days is None
                else counted(days, "{count} day ago", "{count} days ago"))
        return tr("{title}: last verified {when}; its rules may have changed.",
                  title=self.title, when=when)

    def refuse_duration(self, seconds: float, what: str) -> None:
        """Raise InputError when ``seconds`` is shorter or longer than the sheet takes."""
        if seconds > self.duration.most_s and self.duration.beyond is Beyond.REFUSE:
            raise InputError(tr("{what} runs {seconds:.1f} s; {name} allows at most {most_s:g} "
                                "s.", what=what, seconds=seconds, name=self.name,
                                most_s=self.duration.most_s),
                             remedy=tr("Choose a shorter range."))
        if seconds < self.duration.least_s:
            raise InputError(tr("{what} runs {seconds:.1f} s; {name} needs at least {least_s:g} "
                                "s.", what=what, seconds=seconds, name=self.name,
                                least_s=self.duration.least_s), remedy=tr("Choose a longer range."))

    def refuse_rate(self, rate: Fraction) -> None:
        """Raise InputError when the sheet does not take ``rate``."""
        if self.rates.change is RateChange.REFUSE and not self.rates.take(rate):
            raise InputError(tr("The film has {rate:.3f} frames a second; {name} accepts "
                                "{rates_text}.", rate=float(rate), name=self.name,
                                rates_text=self.rates_text()),
                             remedy=tr("Choose another spec sheet or convert the master's rate "
                                       "first."))
