"""Where Caracal keeps its own files; the environment moves each folder."""

from __future__ import annotations

import os
from pathlib import Path

import platformdirs


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
