#!/usr/bin/env bash
# Writes constraints.txt anew, the newest versions that pyproject.toml takes, and runs all tests with
# them.
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh"
fresh=$(mktemp -d)
trap 'rm -rf "$fresh"' EXIT
"$(find_python)" -m venv "$fresh/venv"
"$fresh/venv/bin/python" -m pip install -q -e '.[dev]' uv
{
  echo "# The versions that scripts/setup.sh installs and CI tests with; scripts/constraints.sh writes this."
  "$fresh/venv/bin/python" -m pip freeze --all --exclude pip --exclude-editable
} >"$fresh/constraints.txt"
mv "$fresh/constraints.txt" constraints.txt
.venv/bin/python -m pip install -q -e '.[dev]' -c constraints.txt
.venv/bin/python -m pytest
