"""Where Caracal keeps its own files; the environment moves each folder."""

from __future__ import annotations

import os
import pwd
from contextlib import suppress
from pathlib import Path

import platformdirs


def home_folder() -> Path:
    """The user's home: HOME, or what the system knows where that is empty or no absolute path."""
    said = Path(os.environ.get("HOME", ""))
    if said.is_absolute():
        return said
    with suppress(KeyError):
        return Path(pwd.getpwuid(os.getuid()).pw_dir)
    return Path("/")


def set_home() -> None:
    """Let HOME name the user's home, for the libraries that ask it."""
    os.environ["HOME"] = str(home_folder())


def cache_root() -> Path:
    """The folder of all analyses (CARACAL_CACHE): what is lost there is found again."""
    said = os.environ.get("CARACAL_CACHE")
    return Path(said) if said else Path(platformdirs.user_cache_dir("caracal"))


def state_root() -> Path:
    """The folder of what is saved by itself (CARACAL_STATE): unsaved work, lists, logs."""
    said = os.environ.get("CARACAL_STATE")
    return Path(said) if said else Path(platformdirs.user_state_dir("caracal"))


def config_root() -> Path:
    """The folder of what a user set up (CARACAL_CONFIG)."""
    said = os.environ.get("CARACAL_CONFIG")
    return Path(said) if said else Path(platformdirs.user_config_dir("caracal"))
