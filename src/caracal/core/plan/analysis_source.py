"""Where another process finds an analysis that is kept: it need not be sent there."""

from __future__ import annotations

import hashlib

import msgspec

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.model import Analysis
from caracal.core.base.identity import kept_for
from caracal.core.media.master import Master
from caracal.core.project.model import DrawnBox, Project, ShotStart
from caracal.core.project.shots import as_decided

DIGEST_BYTES = 16


class AnalysisSource(msgspec.Struct, frozen=True):
    """The kept analysis of a film, and what a project changes of its shots.

    Sending that of two hours takes a second, in which Python does nothing else. ``fingerprint`` is
    that of the analysis that is meant: see :func:`fingerprint`.
    """

    content_key: str
    fingerprint: bytes
    master: Master
    starts: tuple[ShotStart, ...]
    drawn: tuple[DrawnBox, ...]
    sound: int


def source_of(found: Analysis, project: Project) -> AnalysisSource | None:
    """Where the analysis ``found``, as ``project`` changes it, is read; None while it grows."""
    return AnalysisSource(found.content_key, fingerprint(found), found.master, project.starts,
                          project.drawn, project.sound) if found.whole else None


def read_source(source: AnalysisSource) -> Analysis | None:
    """The analysis, with the project's changes; None when it is not kept, or another one is."""
    kept = AnalysisStore(source.content_key).load()
    if kept is None or fingerprint(kept) != source.fingerprint:
        return None
    kept = msgspec.structs.replace(kept, master=source.master)
    return as_decided(kept, source.starts, source.drawn, source.sound)


@kept_for(most=4)
def fingerprint(analysis: Analysis) -> bytes:
    """A digest of what tells one analysis of a film from another: its shots, and where tracks begin
    and end."""
    tracks = [(track.id, track.kind, track.shot, track.subject, track.person, track.first_frame,
               len(track.boxes), track.boxes[:1], track.boxes[-1:])
              for track in (*analysis.tracks, *analysis.words)]
    shots = [(shot.start, shot.end, shot.poster_frame) for shot in analysis.shots]
    what = (analysis.version, analysis.content_key, analysis.active, analysis.master.frames, shots,
            tracks, len(analysis.camera))
    return hashlib.blake2b(msgspec.msgpack.encode(what), digest_size=DIGEST_BYTES).digest()
