# Sourced by the other scripts: makes .venv and installs what is missing. Quick the second time.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
export PIP_DISABLE_PIP_VERSION_CHECK=1

need_packages() {  # install those of the named Debian packages that are missing
  command -v dpkg-query >/dev/null || return 0
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' \
      || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  local as=()
  if [ "$(id -u)" -ne 0 ]; then
    if ! command -v sudo >/dev/null; then
      echo "These Debian packages are missing and only root can install them: ${missing[*]}" >&2
      exit 2
    fi
    as=(sudo)
  fi
  echo "Installing Debian packages: ${missing[*]}" >&2
  "${as[@]}" apt-get update -q >/dev/null
  "${as[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends \
    "${missing[@]}" >/dev/null
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

make_venv() {  # make_venv EXTRAS: an environment that matches pyproject.toml
  find_python >/dev/null || need_packages python3 python3-venv
  local python stamp
  python=$(find_python) || { echo "Python 3.11 or newer with venv is needed." >&2; exit 2; }
  stamp=$(cat pyproject.toml <(echo "$PWD") | sha256sum | cut -c1-16)
  [ -f ".venv/$1-$stamp" ] && return 0
  echo "Setting up .venv (a few minutes the first time)" >&2
  [ -x .venv/bin/python ] && .venv/bin/python -c '' 2>/dev/null || "$python" -m venv --clear .venv
  .venv/bin/python -m pip install -q -e ".$2" 2> >(grep -v '^WARNING: Location' >&2)
  touch ".venv/$1-$stamp"
}

WINDOW_PACKAGES=(libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1
  libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0
  libxcb-shape0 libxcb-xinerama0 libxcb-xkb1 libglib2.0-0 libgssapi-krb5-2)
