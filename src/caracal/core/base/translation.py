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
from string import Formatter
from unicodedata import category

from caracal.core.base.folders import config_root

DOMAIN = "caracal"
SHIPPED = Path(__file__).parents[2] / "data" / "locale"


def tr(text: str, /, **values: object) -> str:
    """``text`` in the user's language, with ``values`` in its braces (as ``str.format``).

    A translation is only used where its braces are those of ``text``, and where it holds no
    character that commands a terminal.
    """
    if not text:
        return text  # a catalogue's heading stands under nothing
    try:
        found = _catalogue().gettext(text)
    except Exception:  # noqa: BLE001 - the sum for plurals is worked out for single words, too
        found = text
    return _filled(found, text, values)


def counted(count: int, one: str, many: str) -> str:
    """``one`` or ``many`` of something, as the user's language counts; ``{count}`` is the number.
    """
    english = one if count == 1 else many
    try:
        found = _catalogue().ngettext(one, many, count)
    except Exception:  # noqa: BLE001 - the catalogue's own sum for plurals, such as n/0
        found = english
    return _filled(found, english, {"count": count})


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
    if found != english and not _is_like(found, english):
        found = english
    return found.format(**values) if values else found


@functools.lru_cache(4096)
def _is_like(found: str, english: str) -> bool:
    """Whether a translation has no braces but those of the ``english`` text, width and all, and no
    control characters but its own."""
    try:
        fields, known = ({field[1:] for field in Formatter().parse(text) if field[1] is not None}
                         for text in (found, english))
    except ValueError:  # a brace that is not closed
        return False
    controls = {letter for letter in found if category(letter) == "Cc"}
    return fields <= known and controls <= set(english)


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
        if not Path(name).is_file():
            continue  # reading a pipe would never end
        try:
            with Path(name).open("rb") as file:
                better = gettext.GNUTranslations(file)
        except Exception:  # noqa: BLE001 - a damaged file has no say; gettext lets all through
            continue
        better.add_fallback(first)
        first = better
    return first
