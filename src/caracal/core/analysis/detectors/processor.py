"""What this machine's processor can do that decides which form of a model is loaded."""

from __future__ import annotations

from functools import cache
from pathlib import Path

CPU_INFO = Path("/proc/cpuinfo")
INT8_FLAGS = frozenset({"avx512_vnni", "avx_vnni"})


@cache
def has_int8_products() -> bool:
    """Whether sums of 8-bit products are one instruction here, and so quick and exact.

    Processors without it add such products in 16 bits, which can overflow: the int8 form of a
    model would then be wrong, not only slower.
    """
    return flags_say_int8(CPU_INFO)


def flags_say_int8(cpu_info: Path) -> bool:
    """Whether the processor flags in ``cpu_info`` (as in /proc) name 8-bit dot products."""
    try:
        lines = cpu_info.read_text(encoding="ascii", errors="replace").splitlines()
    except OSError:
        return False
    flags = [line.partition(":")[2].split() for line in lines if line.startswith("flags")]
    return bool(flags) and all(INT8_FLAGS & set(each) for each in flags)
