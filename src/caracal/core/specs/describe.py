"""Every field of a spec sheet in words: what it means, its unit, an example. For the schema."""

from __future__ import annotations

from typing import Any

from caracal.core.base.translation import tr

FIELDS = {  # (what it means with its unit, example)
    "SpecSheet.name": (tr("What commands call it: letters, digits, dashes"), "square-feed"),
    "SpecSheet.title": (tr("What the window calls it"), "Square feed"),
    "SpecSheet.canvas": (tr("Width and height in pixels, both even"), [1080, 1080]),
    "SpecSheet.video": (tr("How the picture is encoded"), {"codec": "h264"}),
    "SpecSheet.source": (tr("Where its rules come from"), "common practice"),
    "SpecSheet.checked": (tr("The day on which its source was verified, YYYY-MM-DD"), "2026-11-24"),
    "SpecSheet.duration": (tr("How long a version may be"), {"least_s": 3, "most_s": 60}),
    "SpecSheet.rates": (tr("Frame rates that are accepted"), {"least": 24, "most": 60}),
    "SpecSheet.sound": (tr("How the sound is encoded, and how loud it is"), {"codec": "aac"}),
    "SpecSheet.file": (tr("The file itself"), {"container": "mp4"}),
    "SpecSheet.covers": (tr("Where the destination's own interface lies"), []),
    "SpecSheet.clear": (tr("Where nothing of it lies"), None),
    "SpecSheet.thumbnail_cut": (tr("What its grid shows of a picture"), None),
    "SpecSheet.edge_trim": (tr("What taller phones leave of it"), None),
    "SpecSheet.captions": (tr("Captions are in the picture, in a file beside it, or "
                              "both"), "burn-in"),
    "SpecSheet.captions_as": (tr("What captions in a file beside it are written as"), "srt"),
    "SpecSheet.as_made": (tr("Whether it takes the canvas of the version it is made from"), False),
    "Duration.least_s": (tr("The shortest version, in seconds"), 3),
    "Duration.most_s": (tr("The longest version, in seconds"), 60),
    "Duration.beyond": (tr("What happens to a longer one: refuse, trim or parts"), "parts"),
    "Rates.least": (tr("The lowest rate, in frames a second"), 24),
    "Rates.most": (tr("The highest rate, in frames a second"), 60),
    "Rates.only": (tr("Only these rates, in frames a second; empty: all in between"), [25, 50]),
    "Rates.change": (tr("What happens to a film of another rate: refuse, repeat or "
                        "blend"), "refuse"),
    "Video.bitrate_kbps": (tr("Average bitrate to aim at, in kb/s"), 6000),
    "Video.largest_kbps": (tr("Largest bitrate over the buffer, in kb/s"), 9000),
    "Video.buffer_kb": (tr("The decoder's buffer, in kb"), 9000),
    "Video.quick_kbps": (tr("Average bitrate above 30 frames a second, in kb/s"), 9000),
    "Video.codec": (tr("h264, h265, vp9, av1, prores or dnxhr"), "h264"),
    "Video.profile": (tr("The codec's profile, as ffprobe names it"), "High"),
    "Video.pixel_format": (tr("How pixels are stored, as FFmpeg names it"), "yuv420p"),
    "Video.gop_s": (tr("Longest group of pictures, in seconds"), 2.0),
    "Video.passes": (tr("1, or 2 to spread the bits over the whole file"), 1),
    "Video.quality": (tr("Constant quality in place of an average bitrate, on the encoder's scale: "
                         "lower is better"), 18.0),
    "Sound.codec": (tr("aac, opus or pcm"), "aac"),
    "Sound.bitrate_kbps": (tr("Bitrate, in kb/s"), 128),
    "Sound.rate_hz": (tr("Samples a second"), 48000),
    "Sound.channels": (tr("1 or 2"), 2),
    "Sound.loudness_lufs": (tr("Integrated loudness, ITU-R BS.1770, in LUFS; none: as it is"), -14),
    "Sound.true_peak_dbtp": (tr("Largest true peak, in dBTP"), -1),
    "Sound.silent_track": (tr("Whether a film without sound gets a silent track"), False),
    "File.container": (tr("mp4, mov, mkv or webm"), "mp4"),
    "File.index": (tr("front, or any"), "front"),
    "File.most_mb": (tr("Largest size, in MB (10^6 bytes)"), 500),
    "File.names": (tr("Pattern of names; fields: {film} {version} {shape} {sheet} {part} {date} "
                      "{time} {resolution}"), "{film} {sheet} {part}"),
    "Zone.what": (tr("What lies there"), "buttons"),
    "Zone.left": (tr("Left edge, a share of the width from 0 to 1"), 0.88),
    "Zone.top": (tr("Top edge, a share of the height from 0 to 1"), 0.4),
    "Zone.width": (tr("A share of the canvas's width"), 0.12),
    "Zone.height": (tr("A share of the canvas's height"), 0.4),
}


def described(schema: dict[str, Any]) -> dict[str, Any]:
    """``schema`` with a description and an example at every field."""
    for kind, definition in schema["$defs"].items():
        for name, field in definition.get("properties", {}).items():
            words, example = FIELDS[f"{kind}.{name}"]
            if "$ref" in field:  # beside a reference nothing else is read by all readers
                field["allOf"] = [{"$ref": field.pop("$ref")}]
            field["description"] = words
            field["examples"] = [example]
    return schema
