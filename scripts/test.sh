#!/usr/bin/env bash
# Sets up, then runs every check: lint, types, tests. Arguments go to pytest.
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh"
need_files
need_packages "${WINDOW_PACKAGES[@]}" xvfb xauth ffmpeg mediainfo strace procps openssl
make_venv dev '[dev]'
if [ $# -eq 0 ]; then
  .venv/bin/ruff check .
  .venv/bin/mypy
  .venv/bin/lint-imports --no-cache
fi
exec .venv/bin/python -m pytest "$@"
