"""A language that nobody speaks: every sentence of ours stands between ⟦ and ⟧, values outside.

What is seen of the program in this language and stands outside of brackets was not translated.
"""

import string
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po

from caracal.core.base.translation import DOMAIN, SHIPPED

LANGUAGE = "qaa"  # ISO 639-2 keeps qaa to qtz for local use


def pseudo(text: str) -> str:
    """``text`` with its words between brackets; what stands in braces stays outside."""
    try:
        parts = list(string.Formatter().parse(text))
    except ValueError:
        return f"⟦{text}⟧"
    made = ""
    filled = any(part[1] for part in parts)
    for plain, name, form, conversion in parts:
        words = plain.replace("{", "{{").replace("}", "}}") if filled else plain
        made += f"⟦{words}⟧" if words else ""
        if name is not None:
            made += "{" + name + (f"!{conversion}" if conversion else "")
            made += (f":{form}" if form else "") + "}"
    return made


def write_catalogue(folder: Path) -> None:
    """Write the language's catalogue below ``folder``/locale, from the template that ships."""
    with (SHIPPED / f"{DOMAIN}.pot").open("rb") as file:
        template = read_po(file)
    made = Catalog(locale=None)
    for message in template:
        if isinstance(message.id, tuple):
            made.add(message.id, tuple(map(pseudo, message.id)))
        elif message.id:
            made.add(message.id, pseudo(message.id))
    target = folder / "locale" / LANGUAGE / "LC_MESSAGES" / f"{DOMAIN}.mo"
    target.parent.mkdir(parents=True)
    with target.open("wb") as out:
        write_mo(out, made)


def outside(text: str) -> str:
    """What of ``text`` stands outside of all brackets."""
    depth, rest = 0, ""
    for letter in text:
        depth += (letter == "⟦") - (letter == "⟧")
        if depth == 0 and letter != "⟧":
            rest += letter
    return rest
