"""The start page shows recent films as pictures."""

from PySide6.QtGui import QColor, QImage

from caracal.core.base.resources import DEMO_FILM
from caracal.ui.services.posters import forget_posters, keep_poster, poster_of


def test_a_poster_is_kept_read_and_forgotten(tmp_path, monkeypatch, qapp):
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    picture = QImage(960, 540, QImage.Format.Format_RGB32)
    picture.fill(QColor(200, 40, 40))
    one, other = tmp_path / "one.mp4", tmp_path / "other.mp4"
    assert poster_of(one) is None
    for film in (one, other):
        keep_poster(film, picture)
    found = poster_of(one)
    assert (found.width(), found.height()) == (224, 126)
    assert abs(found.pixelColor(100, 60).red() - 200) < 6
    forget_posters([other])
    assert poster_of(one) is None and poster_of(other) is not None
    (file,) = (tmp_path / "state" / "posters").iterdir()
    file.write_bytes(b"no picture")
    assert poster_of(other) is None


def test_a_closed_film_is_shown_with_its_picture(window, qtbot):
    session = window.film.session
    shot = session.analysis.shots[session.shot]
    qtbot.waitUntil(lambda: session.preview.near(
        "", shot.poster_frame, shot.start, shot.end) is not None, timeout=10_000)
    window.close_film()
    item = window.start.recent.item(0)
    assert item.text().startswith(f"{DEMO_FILM.name}\n") and "Last opened" in item.text()
    icon = item.icon().pixmap(112, 63).toImage()
    colours = {icon.pixelColor(x, 30).name() for x in range(4, 108, 8)}
    assert len(colours) > 4  # a picture, not a plain plate


def test_nothing_is_kept_where_nothing_can_be_written(tmp_path, monkeypatch, qapp):
    (tmp_path / "state").write_text("a file")
    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    picture = QImage(96, 54, QImage.Format.Format_RGB32)
    picture.fill(QColor(200, 40, 40))
    keep_poster(tmp_path / "one.mp4", picture)
    assert poster_of(tmp_path / "one.mp4") is None
