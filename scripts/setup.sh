# Sourced by the other scripts: makes .venv and installs what is missing. Quick the second time.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
export PIP_DISABLE_PIP_VERSION_CHECK=1

is_installed() {
  dpkg-query -W -f '${Status}' "$1" 2>/dev/null | grep -q 'ok installed'
}

need_packages() {  # install what is missing; "a|b" is one package under either of two names
  command -v dpkg-query >/dev/null || return 0
  local missing=() wanted=("$@") names name found
  find_python >/dev/null || wanted+=(python3 python3-venv)
  for names in "${wanted[@]}"; do
    found=
    for name in ${names//|/ }; do
      is_installed "$name" && found=yes
    done
    [ -n "$found" ] || missing+=("$names")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  local as=()
  if [ "$(id -u)" -ne 0 ]; then
    may_ask_for_root || refuse_missing "${missing[@]}"
    as=(sudo)
  fi
  "${as[@]}" apt-get update -q >/dev/null
  local install=()
  for names in "${missing[@]}"; do
    install+=("$(first_known "$names")")
  done
  echo "Installing Debian packages: ${install[*]}" >&2
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends \
    "${install[@]}" >/dev/null
}

may_ask_for_root() {  # there is sudo, and a person to type the password if one is wanted
  command -v sudo >/dev/null && { [ -t 0 ] || sudo -n true 2>/dev/null; }
}

first_known() {  # of "a|b" the one that this Debian has
  local name
  for name in ${1//|/ }; do
    if apt-cache show "$name" 2>/dev/null | grep -q '^Package:'; then
      echo "$name"
      return 0
    fi
  done
  echo "${1%%|*}"
}

refuse_missing() {  # only root can install these: say all of them, and how, at once
  local names install=()
  for names in "$@"; do
    install+=("$(first_known "$names")")
  done
  echo "Debian packages are missing that only root can install. As root, run:" >&2
  echo "  apt-get update && apt-get install -y --no-install-recommends ${install[*]}" >&2
  exit 2
}

find_python() {  # a Python of 3.11 or newer that can make virtual environments
  local one
  for one in python3 python3.13 python3.12 python3.11 /usr/bin/python3; do
    if "$one" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' 2>/dev/null
    then
      echo "$one"
      return 0
    fi
  done
  return 1
}

need_files() {  # the shipped film and models, not the pointers that stand for them
  local file pointers=()
  for file in src/caracal/data/demo/*.mp4 src/caracal/data/models/*.onnx; do
    if [ "$(head -c 24 "$file" | tr -d '\0')" = "version https://git-lfs." ]; then
      pointers+=("$file")
    fi
  done
  [ ${#pointers[@]} -eq 0 ] && return 0
  echo "These files are only pointers into a large-file store: ${pointers[*]}" >&2
  echo "Fetch them with: git lfs install && git lfs pull (package git-lfs), or copy them from a" \
    "whole checkout." >&2
  exit 2
}

make_venv() {  # make_venv KIND EXTRAS: an environment that matches pyproject.toml, pinned
  local kind=$1 extras=$2 python stamp
  python=$(find_python) || { echo "Python 3.11 or newer with venv is needed." >&2; exit 2; }
  stamp=$(cat pyproject.toml constraints.txt <(echo "$PWD") | sha256sum | cut -c1-16)
  # What the tests need holds what the demo needs: one is enough for both.
  [ -f ".venv/$kind-$stamp" ] || [ -f ".venv/dev-$stamp" ] && return 0
  echo "Setting up .venv (a few minutes the first time)" >&2
  [ -x .venv/bin/python ] && .venv/bin/python -c '' 2>/dev/null || "$python" -m venv --clear .venv
  install_pinned ".$extras" || {
    echo "Not all of constraints.txt is to be had here: other versions are taken." >&2
    .venv/bin/python -m pip install -q --no-compile -e ".$extras" 2> >(grep -v '^WARNING: Location' >&2)
  }
  compile_used
  touch ".venv/$kind-$stamp"
}

compile_used() {  # what the program imports; much of what was installed never is
  env -u PYTHONDONTWRITEBYTECODE .venv/bin/python -c "
from importlib import import_module
from caracal.core.processes.children import IMPORTED
for name in (*IMPORTED, 'caracal.cli.steps', 'caracal.cli.batch', 'caracal.ui.shell.main_window'):
    import_module(name)" 2>/dev/null || true
}

install_pinned() {  # the versions that were tested: by uv in a quarter of the time, else by pip
  install_by_uv "$1" && return 0
  .venv/bin/python -m pip install -q --no-compile -e "$1" -c constraints.txt \
    2> >(grep -v '^WARNING: Location' >&2)
}

install_by_uv() {  # from where pip would take them; nothing is kept beside .venv
  local told pair value places=()
  .venv/bin/python -m pip install -q --no-compile uv -c constraints.txt 2>/dev/null || return 1
  told=$(.venv/bin/python -m pip config list)
  for pair in index-url=UV_DEFAULT_INDEX extra-index-url=UV_EXTRA_INDEX_URL \
    find-links=UV_FIND_LINKS cert=SSL_CERT_FILE; do
    value=$(sed -n "s/^[^=]*[.]${pair%=*}='\(.*\)'$/\1/p" <<<"$told" | tail -1)
    [ -z "$value" ] || places+=("${pair#*=}=$value")
  done
  env "${places[@]}" timeout 600 .venv/bin/uv pip install -q --no-cache --python .venv/bin/python \
    --index-strategy unsafe-best-match -e "$1" -c constraints.txt 2>/dev/null
}

WINDOW_PACKAGES=(libfribidi0 libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1
  libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0
  libxcb-shape0 libxcb-xinerama0 libxcb-xkb1 'libglib2.0-0|libglib2.0-0t64' libgssapi-krb5-2)
