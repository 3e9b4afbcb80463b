"""Files that are no films, each made by a function of the folder it goes to."""

import os

from conftest import ffmpeg, write_film


def missing(folder):
    return folder / "none.mp4"


def a_folder(folder):
    return folder


def empty(folder):
    path = folder / "empty.mp4"
    path.touch()
    return path


def text(folder):
    path = folder / "text.mp4"
    path.write_text("this is no film\n" * 99)
    return path


def sound_only(folder):
    path = folder / "sound.m4a"
    ffmpeg("-f", "lavfi", "-i", "sine=d=1", "-c:a", "aac", path)
    return path


def still(folder):
    path = folder / "still.png"
    ffmpeg("-f", "lavfi", "-i", "testsrc=s=64x64:d=1", "-frames:v", "1", path)
    return path


def cut_off(folder):
    whole = write_film(folder / "whole.mp4", frames=250)
    front = folder / "front.mp4"
    ffmpeg("-i", whole, "-c", "copy", "-movflags", "+faststart", front)
    path = folder / "cut off.mp4"
    path.write_bytes(front.read_bytes()[: front.stat().st_size // 2])
    return path


def no_index(folder):
    whole = write_film(folder / "whole.mp4", frames=50)
    path = folder / "no index.mp4"
    path.write_bytes(whole.read_bytes()[: whole.stat().st_size - 2000])
    return path


def tiny(folder):
    path = folder / "tiny.mkv"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=2x2:r=25:d=1", "-c:v", "ffv1", path)
    return path


def narrow(folder):
    path = folder / "narrow.mkv"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=16x400:r=25:d=1", "-c:v", "ffv1", path)
    return path


def unreadable(folder):
    path = write_film(folder / "locked.mp4", frames=30)
    path.chmod(0)
    if os.access(path, os.R_OK):  # root reads everything: a dangling link is as unreadable
        path.unlink()
        path.symlink_to(folder / "gone.mp4")
    return path


BAD_FILES = (missing, a_folder, empty, text, sound_only, still, cut_off, no_index, unreadable,
             tiny, narrow)
