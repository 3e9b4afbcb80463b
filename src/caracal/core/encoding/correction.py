"""What is done differently when a file is made again because its proof was narrowly wrong.

Encoders meet a bitrate on average, and a lossy sound encoder goes beyond the peaks it is given.
Where a file has too many bits or too high a peak it is made once more with less of either, before
anybody is told that it is not proved.
"""

from __future__ import annotations

from math import log2

import msgspec

from caracal.core.encoding.proof import Line, Proof
from caracal.core.plan.file_plan import FilePlan
from caracal.core.sound.finished_sound import LOSSY_SPARE_DB, SoundPlan
from caracal.core.specs.bits import Bits, bits_of, intra_kbps

TRIES = 3  # of a file, the first among them
SPARE = 0.96  # of the bits that would be just right
STRICT = ("h264", "h265")  # codecs whose encoders keep within their buffer
LOOSE_SPARE = 0.85  # for the others
MOST_SHARE = 1.6  # of the bits of before, for a file that has far too few
AGAIN = 3.0  # VP9 with a key frame every 40 ms saves a quarter as much as it is told to
LEAST_SHARE = 0.05  # of the bits of before
HALF_AT = 6.0  # steps of quality that halve the bits (common practice)
SPARE_DB, MORE = 0.3, 1.4
MOST_OFF_LU = 3.0  # what is off by more is another sound
BITS, SIZE, PEAK = ("video bitrate", "busiest second"), "size", "true peak"
LOUDNESS, PICTURES = "loudness", "pictures"


def corrected(plan: FilePlan, proof: Proof) -> FilePlan | None:
    """``plan`` with fewer bits or a lower limit, so that what is wrong in ``proof`` comes right.

    None: something else is wrong, or nothing can be done about it.
    """
    wrong = [line for line in proof.lines if not line.right]
    if [line.what for line in wrong] == [PICTURES]:
        return _finer(plan)
    if not wrong or any(line.most is None or line.value is None for line in wrong):
        return None
    fixed = plan.sheet.video.family.intra and not plan.sheet.video.family.scalable
    for line in wrong:
        if line.what == SIZE and fixed:
            return None
        if line.what in (*BITS, SIZE):
            plan = _with_fewer_bits(plan, line)
        elif line.what == PEAK and plan.sound is not None:
            plan = msgspec.structs.replace(plan, sound=_limited_more(plan, plan.sound, line))
        elif line.what == LOUDNESS and plan.sound is not None:
            off = (line.most or 0.0) - (line.value or 0.0)
            if abs(off) > MOST_OFF_LU:
                return None
            plan = msgspec.structs.replace(plan, sound=msgspec.structs.replace(
                plan.sound, gain_db=plan.sound.gain_db + off))
    return plan


def _finer(plan: FilePlan) -> FilePlan | None:
    """``plan`` with a finer quality, where its sheet's is so coarse that nothing can be recognised;
    None: its sheet asks for bits."""
    bits, family = plan.bits or bits_of(plan.sheet, plan.rate), plan.sheet.video.family
    if bits.quality is None or family.quality is None or bits.quality <= family.quality[0]:
        return None
    finer = max(family.quality[0], bits.quality - HALF_AT)
    return msgspec.structs.replace(plan, bits=msgspec.structs.replace(bits, quality=finer))


def _with_fewer_bits(plan: FilePlan, line: Line) -> FilePlan:
    bits, family = plan.bits or bits_of(plan.sheet, plan.rate), plan.sheet.video.family
    if family.scalable and bits.target_kbps is None:
        bits = Bits(round(intra_kbps(plan.sheet, plan.rate)))
    spare = SPARE if plan.sheet.video.codec in STRICT else LOOSE_SPARE
    sound_mb = 0.0
    if line.what == SIZE and plan.sound is not None:  # the sound stays as it is
        sound_mb = plan.sheet.sound.kbps * plan.timeline.seconds / 8000
    share = spare * ((line.most or 0.0) - sound_mb) / max(1e-9, (line.value or 0.0) - sound_mb)
    if (line.value or 0.0) < (line.most or 0.0):  # far below: the encoder was too careful
        share = min((line.most or 0.0) / max(1e-9, line.value or 0.0), MOST_SHARE)
        return msgspec.structs.replace(plan, bits=Bits(
            _times(bits.target_kbps, share), bits.largest_kbps, bits.buffer_kb, bits.quality))
    asked = bits_of(plan.sheet, plan.rate).target_kbps
    if None not in (asked, bits.target_kbps) and (bits.target_kbps or 0) < (asked or 0):
        share **= AGAIN  # it had fewer already, and took little notice
    share = min(max(share, LEAST_SHARE), spare)
    quality = bits.quality
    if quality is not None and family.quality is not None:
        quality = min(family.quality[1], quality - HALF_AT * log2(share))
    return msgspec.structs.replace(plan, bits=Bits(
        _times(bits.target_kbps, share), _times(bits.largest_kbps, share),
        _times(bits.buffer_kb, share), quality))


def _times(number: int | None, share: float) -> int | None:
    return None if number is None else max(1, round(number * share))


def _limited_more(plan: FilePlan, sound: SoundPlan, line: Line) -> SoundPlan:
    """``sound`` held under a lower limit: by rather more than the coder went beyond it, which does
    so by more the harder the sound is limited."""
    usual = plan.sheet.sound.true_peak_dbtp - LOSSY_SPARE_DB
    limit = usual if sound.limit_dbtp is None else sound.limit_dbtp
    over = (line.value or 0.0) - (line.most or 0.0)
    return msgspec.structs.replace(sound, limit_dbtp=limit - MORE * over - SPARE_DB)
