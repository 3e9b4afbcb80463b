"""Which loudspeaker each channel of a sound stream is for, also where the file does not say."""

from __future__ import annotations

from typing import Any

from av.audio.stream import AudioStream

UNNAMED = "NONE"  # what FFmpeg calls a channel of no known place
USUAL = {  # by count: the order of ITU-R BS.2051 and of WAVE files (common practice)
    1: ("FC",),
    2: ("FL", "FR"),
    3: ("FL", "FR", "FC"),
    4: ("FL", "FR", "BL", "BR"),
    5: ("FL", "FR", "FC", "BL", "BR"),
    6: ("FL", "FR", "FC", "LFE", "BL", "BR"),
    7: ("FL", "FR", "FC", "LFE", "BC", "SL", "SR"),
    8: ("FL", "FR", "FC", "LFE", "BL", "BR", "SL", "SR"),
}
# The library's layout objects free memory that belongs to the stream when they go away, which ends
# the process for layouts of a custom order (PyAV 18): they are kept for ever, one a stream opened.
_KEPT: list[Any] = []

LAYOUTS = {1: "mono", 2: "stereo", 6: "5.1"}  # by the number of channels we make


def open_channels(stream: AudioStream) -> tuple[str, ...]:
    """The names of the stream's channels (FL, FR, FC, ...), before anything of it is decoded.

    Channels that the file does not name get the usual meaning of that many; where there is none
    they are pairs, left and right in turn. Frames of PCM carry no layout afterwards.
    """
    context = stream.codec_context
    layout = context.layout
    _KEPT.append(layout)
    names = tuple(channel.name for channel in layout.channels)
    if context.name.startswith("pcm_"):
        context.layout = f"{len(names)}C"  # counted, of no order: nothing to be freed twice
    return named(names)


def named(names: tuple[str, ...]) -> tuple[str, ...]:
    """``names`` with a meaning for every channel that has none."""
    if all(name == UNNAMED for name in names):
        return USUAL.get(len(names), tuple("FL" if i % 2 == 0 else "FR"
                                           for i in range(len(names))))
    return tuple("FC" if name == UNNAMED else name for name in names)
