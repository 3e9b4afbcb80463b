#!/usr/bin/env bash
# Makes the pictures in docs/screenshots again, from the demo film, without a display.
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh"
need_packages "${WINDOW_PACKAGES[@]}"
make_venv demo ''
QT_QPA_PLATFORM=offscreen exec .venv/bin/python scripts/screenshots.py docs/screenshots
