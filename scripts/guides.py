"""Writes docs/sheets.md from the schema of spec sheets, and the copy of the guide that ships.

    .venv/bin/python scripts/guides.py
"""

from pathlib import Path
from typing import Any

from caracal.core.base.resources import shipped
from caracal.core.specs.sheet_store import schema, sheet_text, shipped_sheets

DOCS = Path(__file__).parent.parent / "docs"
EXAMPLE = "square-feed"
HEAD = """# Spec sheets

A spec sheet says what a destination asks of a file. It is an open TOML file; those that ship and
your own are listed by `caracal specs list`. In the window they are a form beside a drawing
(Ctrl+T). This page is written by `scripts/guides.py` from the schema that sheets are read by
([spec-sheet.schema.json](spec-sheet.schema.json)): a field that is not here does not exist, and a
sheet with another one is refused with the line it stands in.

## Your own

```console
$ caracal specs export square-feed mine.toml
$ caracal specs check mine.toml
$ caracal specs show square-feed
```

Change `name` and `title` in the file, and what the destination asks otherwise; `caracal specs add`
keeps it among your own. What cannot be made (a bitrate above the largest, odd sides, a codec that
its container does not take) is refused with the reason.

"""


def kind_of(field: dict[str, Any], tables: dict[str, Any]) -> str:
    """What may be written in a field, in words."""
    if "anyOf" in field:
        kinds = [kind_of(each, tables) for each in field["anyOf"]]
        return " or ".join("none" if kind == "null" else kind for kind in kinds)
    if "allOf" in field:
        return kind_of(field["allOf"][0], tables)
    if "$ref" in field:
        name = field["$ref"].rsplit("/", 1)[1]
        values = tables[name].get("enum")
        return " or ".join(f"`{value}`" for value in values) if values else (
            f"table [{name}](#{name.lower()})")
    if field.get("type") == "array":
        if "prefixItems" in field:
            return f"{len(field['prefixItems'])} whole numbers"
        return f"list of {kind_of(field['items'], tables)}s"
    names = {"integer": "whole number", "number": "number", "string": "text",
             "boolean": "yes or no"}
    return names.get(field.get("type", ""), field.get("type", ""))


def default_of(field: dict[str, Any]) -> str:
    """What a field is without being written."""
    if "default" not in field:
        return "must be written"
    value = field["default"]
    if isinstance(value, dict):
        return "as its own fields"
    return "none" if value in (None, [], ()) else f"`{str(value).lower()}`" if isinstance(
        value, bool) else f"`{value}`"


def table_of(name: str, tables: dict[str, Any]) -> str:
    """A table of a sheet: its fields, what they take, and what they mean."""
    table = tables[name]
    rows = [f"| `{field}` | {about.get('description', '')} | {kind_of(about, tables)} | "
            f"{default_of(about)} |" for field, about in table["properties"].items()]
    words = " ".join(table["description"].replace("``", "`").split()).replace(":meth:", "")
    words = words.replace(" None", " none")
    title = "The sheet itself" if name == "SpecSheet" else name
    return "\n".join([f"## {title}", "", words, "", "| field | meaning | takes | without it |",
                      "|---|---|---|---|", *rows, ""])


def shipped_table() -> str:
    """The sheets that ship, a line each."""
    rows = [f"| `{sheet.name}` | {sheet.title} | "
            f"{'as made' if sheet.as_made else f'{sheet.canvas[0]} x {sheet.canvas[1]}'} | "
            f"{sheet.duration.least_s:g} to {sheet.duration.most_s:g} s, then "
            f"{sheet.duration.beyond} | {sheet.source} |" for sheet in shipped_sheets().values()]
    return "\n".join(["## Those that ship", "", "| name | title | canvas | length | source |",
                      "|---|---|---|---|---|", *rows, ""])


def sheets_page() -> str:
    """All of docs/sheets.md."""
    tables = schema()["$defs"]
    order = ("SpecSheet", "Duration", "Rates", "Video", "Sound", "File", "Zone")
    example = sheet_text(shipped_sheets()[EXAMPLE])
    return (HEAD + shipped_table() + "\n" + "\n".join(table_of(name, tables) for name in order)
            + f"\n## One as a whole\n\n```toml\n{example}```\n")


if __name__ == "__main__":
    (DOCS / "sheets.md").write_text(sheets_page(), encoding="utf-8")
    shipped("guide.md").write_bytes((DOCS / "guide.md").read_bytes())
