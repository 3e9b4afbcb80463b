"""What people read, in their language.

Every sentence stands in the code, in English, and is the key of its translation (GNU gettext).
``data/locale/caracal.pot`` lists them all, written by ``scripts/catalogue.py``. A translation is
``LANGUAGE/LC_MESSAGES/caracal.mo`` below ``locale`` in the user's configuration folder, or below
``data/locale``. The language is the environment's when a process begins: LANGUAGE, LC_ALL,
LC_MESSAGES and LANG, in this order.
"""

from __future__ import annotations

import functools
import gettext
from pathlib import Path

from caracal.core.folders import config_root

DOMAIN = "caracal"
SHIPPED = Path(__file__).parents[1] / "data" / "locale"


def tr(text: str, /, **values: object) -> str:
    """``text`` in the user's language, with ``values`` in its braces (as ``str.format``).

    A translation whose braces are not those of ``text`` is not used.
    """
    if not text:
        return text  # a catalogue's heading stands under nothing
    return _filled(_catalogue().gettext(text), text, values)


def counted(count: int, one: str, many: str) -> str:
    """``one`` or ``many`` of something, as the user's language counts; ``{count}`` is the number.
    """
    english = one if count == 1 else many
    return _filled(_catalogue().ngettext(one, many, count), english, {"count": count})


def mark(text: str, /) -> str:
    """``text`` as it is, listed for translation.

    It is for words that are stored or compared: they stay English, and whoever shows one of them
    calls :func:`tr` with it.
    """
    return text


def languages() -> tuple[str, ...]:
    """The languages, as the environment names them, of which there are catalogues."""
    return tuple(dict.fromkeys(Path(file).parts[-3] for file in _files()))


def _filled(found: str, english: str, values: dict[str, object]) -> str:
    if not values:
        return found
    try:
        return found.format(**values)
    except (LookupError, ValueError, AttributeError, TypeError):  # a translator's slip
        return english.format(**values)


def _files() -> list[str]:
    return [file for folder in (config_root() / "locale", SHIPPED)
            for file in gettext.find(DOMAIN, folder, all=True)]


@functools.cache
def _catalogue() -> gettext.NullTranslations:
    """The user's own catalogues before those that ship; English where there is none.

    One that cannot be read is left out.
    """
    first = gettext.NullTranslations()
    for name in reversed(_files()):
        try:
            with Path(name).open("rb") as file:
                better = gettext.GNUTranslations(file)
        except Exception:  # noqa: BLE001 - a damaged file has no say; gettext lets all through
            continue
        better.add_fallback(first)
        first = better
    return first
