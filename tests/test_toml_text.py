"""Structs as TOML files: read back by the standard library, refused in a sentence."""

import tomllib

import msgspec
import pytest

from caracal.core.base.errors import InputError
from caracal.core.base.toml_text import from_toml, read_toml, toml_of, write_toml


class Inner(msgspec.Struct, frozen=True):
    name: str
    share: float | None = None


class Outer(msgspec.Struct, frozen=True):
    title: str
    count: int = 3
    parts: tuple[Inner, ...] = ()


VALUE = Outer('“Kiln” \\ = "two"\nlines', 7, (Inner("a", 0.25), Inner("ünï = [x]")))


def test_what_is_written_is_read_back_and_nothing_is_left_out_but_none(tmp_path):
    write_toml(tmp_path / "value.toml", VALUE)
    assert read_toml(tmp_path / "value.toml", Outer, "value") == VALUE
    plain = tomllib.loads((tmp_path / "value.toml").read_text("utf-8"))  # another parser's reading
    assert plain == {"title": VALUE.title, "count": 7, "parts": [{"name": "a", "share": 0.25},
                                                                  {"name": "ünï = [x]"}]}
    assert "share" not in toml_of(Inner("b"))


@pytest.mark.parametrize("data", [
    b"title = ", b"title = 3", b"count = 1", b'title = "a"\ncount = "many"', b"\xff", b"= 1",
    b'title = "a"\ntitle = "b"', b'title = "a"\nparts = [{share = 0.5}]'])
def test_what_is_no_such_value_is_refused_by_its_name(data, tmp_path):
    with pytest.raises(InputError, match="This is not a value"):
        from_toml(data, Outer, "value")
    (tmp_path / "bad.toml").write_bytes(data)
    with pytest.raises(InputError, match=r"bad\.toml"):
        read_toml(tmp_path / "bad.toml", Outer, "value")
