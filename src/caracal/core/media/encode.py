"""Writing one movie file: pictures and sound to an encoder and a container, in step."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import msgspec
import numpy as np
from av.audio.stream import AudioStream
from av.container import OutputContainer
from av.video.frame import PictureType
from av.video.reformatter import VideoReformatter
from av.video.stream import VideoStream
from numpy.typing import NDArray

from caracal.core.media.av_errors import address, writing
from caracal.core.media.channels import LAYOUTS
from caracal.core.media.planes import Plane, fill_frame, new_frame

BT709_TAGS = {"color_primaries": 1, "color_trc": 1, "colorspace": 1, "color_range": 1}


class SoundSettings(msgspec.Struct, frozen=True):
    """How sound is encoded: by which codec, at which rate and bitrate."""

    encoder: str
    rate_hz: int
    channels: int
    bitrate_kbps: int


class EncoderSettings(msgspec.Struct, frozen=True):
    """Everything an encoder is told. ``options`` are the encoder's own names and values.

    ``bitrate_kbps`` None leaves the rate to ``options`` (constant quality).
    """

    width: int
    height: int
    frame_rate: str
    encoder: str
    pixel_format: str
    gop_frames: int
    options: dict[str, str]
    bitrate_kbps: int | None = None
    sound: SoundSettings | None = None
    container: str = "mp4"
    container_options: dict[str, str] = {}


def add_sound(container: OutputContainer, settings: SoundSettings) -> AudioStream:
    """A stream of ``container`` whose encoder does as ``settings`` say."""
    options = {"vbr": "constrained"} if settings.encoder == "libopus" else {}
    stream = cast("AudioStream", container.add_stream(
        settings.encoder, rate=settings.rate_hz, options=options))
    stream.codec_context.layout = LAYOUTS[settings.channels]
    stream.bit_rate = settings.bitrate_kbps * 1000
    return stream


class MovieWriter:
    """Encodes planes and samples into ``path``. Call :meth:`finish`, else the file is unusable.

    With ``copied`` pictures are not encoded but taken over as packets of streams like that one.
    """

    def __init__(
        self, path: Path, settings: EncoderSettings, copied: VideoStream | None = None
    ) -> None:
        self._path, self._settings = path, settings
        self._rate = Fraction(settings.frame_rate)
        self._pictures = self._samples = 0
        self._converter = VideoReformatter()  # prepared once, not for every picture
        self._fifo: list[NDArray[np.float32]] = []
        self._waiting = 0
        with writing(path):
            self._container = av.open(
                address(path), "w", format=settings.container, options=settings.container_options
            )
            self._video = self._add_video() if copied is None else (
                self._container.add_stream_from_template(copied))
            self._copies = copied is not None
            self._audio = self._add_audio()

    @property
    def rate(self) -> Fraction:
        """The frame rate as a fraction."""
        return self._rate

    def _add_video(self) -> VideoStream:
        wanted = self._settings
        stream = cast("VideoStream", self._container.add_stream(
            wanted.encoder, rate=self._rate, options=dict(wanted.options)))
        stream.width, stream.height = wanted.width, wanted.height
        stream.pix_fmt = wanted.pixel_format
        context = stream.codec_context
        context.sample_aspect_ratio = Fraction(1)
        context.time_base = 1 / self._rate
        context.gop_size = wanted.gop_frames
        if wanted.bitrate_kbps is not None:
            stream.bit_rate = wanted.bitrate_kbps * 1000
        for name, value in BT709_TAGS.items():
            setattr(context, name, value)
        return stream

    def _add_audio(self) -> AudioStream | None:
        sound = self._settings.sound
        return None if sound is None else add_sound(self._container, sound)

    def write_picture(
        self, planes: tuple[Plane, Plane, Plane], stands_alone: bool = False
    ) -> None:
        """Encode the next picture: luma and two chroma planes of the settings' size.

        One that ``stands_alone`` begins a group of pictures, whatever the encoder thinks of it.
        """
        frame = new_frame(self._settings.width, self._settings.height)
        fill_frame(frame, planes)
        if self._settings.pixel_format != "yuv420p":
            frame = self._converter.reformat(frame, format=self._settings.pixel_format)
        frame.pts, frame.time_base = self._pictures, 1 / self._rate
        frame.pict_type = PictureType.I if stands_alone else PictureType.NONE
        self._pictures += 1
        with writing(self._path):
            for packet in self._video.encode(frame):
                self._container.mux(packet)

    def copy_picture(self, packet: av.Packet[VideoStream], shift: int) -> None:
        """Take over an encoded picture, ``shift`` frames later than it says."""
        base = packet.time_base or Fraction(1)
        by = round(Fraction(shift) / self._rate / base)
        packet.pts = (packet.pts or 0) + by
        packet.dts = (packet.dts or 0) + by
        packet.stream = self._video
        with writing(self._path):
            self._container.mux(packet)

    def write_sound(self, samples: NDArray[np.float32]) -> None:
        """Encode the next samples, (n, channels) float32, -1..1."""
        if self._audio is None:
            return
        self._fifo.append(samples)
        self._waiting += len(samples)
        size = self._audio.codec_context.frame_size or 1024
        if self._waiting >= size:
            self._encode_sound(self._waiting // size * size, size)

    def _encode_sound(self, count: int, size: int) -> None:
        assert self._audio is not None
        sound = np.concatenate(self._fifo)
        for at in range(0, count, size):
            part = sound[at : min(at + size, count)]
            packed = np.ascontiguousarray(part.T)
            layout = self._audio.codec_context.layout.name
            frame = av.AudioFrame.from_ndarray(packed, format="fltp", layout=layout)
            rate = self._audio.codec_context.sample_rate
            frame.sample_rate, frame.pts = rate, self._samples
            frame.time_base = Fraction(1, rate)
            self._samples += len(part)
            with writing(self._path):
                for packet in self._audio.encode(frame):
                    self._container.mux(packet)
        self._fifo = [sound[count:]]
        self._waiting = len(sound) - count

    def finish(self) -> None:
        """Flush the encoders and close the file."""
        with writing(self._path):
            if self._audio is not None:
                if self._waiting:
                    self._encode_sound(self._waiting, self._audio.codec_context.frame_size or 1024)
                for packet in self._audio.encode(None):
                    self._container.mux(packet)
            for packet in () if self._copies else self._video.encode(None):
                self._container.mux(packet)
            self._container.close()

    def abandon(self) -> None:
        """Close without finishing; what was written is of no use."""
        with writing(self._path):
            self._container.close()
