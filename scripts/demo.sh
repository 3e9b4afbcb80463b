#!/usr/bin/env bash
# Opens Caracal on the demo film. --headless OUT makes the three demo versions without any window.
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh"
film=src/caracal/data/demo/kiln-day-at-marram-quay.mp4
need_files
if [ "${1:-}" = --headless ]; then
  [ $# -eq 2 ] || { echo "Say where the files go: scripts/demo.sh --headless OUT" >&2; exit 2; }
  need_packages 'libglib2.0-0|libglib2.0-0t64'
  make_venv demo ''
  exec .venv/bin/caracal convert "$film" \
    --spec vertical-short square-feed portrait-feed --out "$2"
fi
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}${QT_QPA_PLATFORM:-}" ]; then
  need_packages "${WINDOW_PACKAGES[@]}"
  make_venv demo ''
  exec .venv/bin/caracal demo
fi
need_packages "${WINDOW_PACKAGES[@]}" xvfb
make_venv demo ''
echo "No display here: the window opens on a virtual one (Xvfb). Stop it with Ctrl+C." >&2
exec .venv/bin/python -P -m caracal.cli.virtual demo
