#!/usr/bin/env bash
# Sets up, then runs every check: lint, types, tests. Arguments go to pytest.
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh"
need_files
need_packages "${WINDOW_PACKAGES[@]}" xvfb xauth ffmpeg mediainfo strace procps openssl pocketsphinx-testdata fonts-dejavu-core appstream desktop-file-utils groff-base tesseract-ocr
make_venv dev '[dev]'
unset PYTHONDONTWRITEBYTECODE  # hundreds of processes start: each would compile all of it again
if [ $# -gt 0 ]; then
  exec .venv/bin/python -m pytest "$@"
fi
said=$(mktemp) lint=
trap 'kill ${lint:-} 2>/dev/null || true; rm -f "$said"' EXIT
{ .venv/bin/ruff check . && .venv/bin/mypy && .venv/bin/lint-imports --no-cache; } >"$said" 2>&1 &
lint=$! failed=0
# The first time, tests are compiled once before three processes would do so at a time.
[ -d tests/__pycache__ ] || .venv/bin/python -m pytest -qq -p no:xdist -o addopts= --collect-only >/dev/null || true
.venv/bin/python -m pytest || failed=$?
wait "$lint" || failed=1
cat "$said"
exit "$failed"
