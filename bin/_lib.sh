# Shared by the commands in bin/: packages of Debian, the Python environment, its stamps.
# Sourced, not run. Everything below does nothing when its work is already done.
set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
VENV="$ROOT/.venv"
PDF_PACKAGES="libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0" # what the report library draws text with
export PYTHONPATH="$ROOT/src" PYTHONDONTWRITEBYTECODE=
say() { printf '%s\n' "$*" >&2; }

missing_packages() { # names of Debian packages → those not installed
  local name
  for name in "$@"; do
    dpkg-query -W -f '${Status}' "$name" 2>/dev/null | grep -q 'install ok installed' || printf '%s ' "$name"
  done
}

need_packages() { # install Debian packages as root or through sudo, or say exactly which
  command -v dpkg-query >/dev/null 2>&1 || { say "This is no Debian system; install by hand: $*"; return 0; }
  local wanted; wanted="$(missing_packages "$@")"
  [ -z "$wanted" ] && return 0
  local as=""
  if [ "$(id -u)" != 0 ]; then
    if command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then as="sudo -n"
    else say "Please install these Debian packages and start again:"; say "  apt-get install --no-install-recommends $wanted"; exit 1; fi
  fi
  say "installing Debian packages: $wanted"
  $as env DEBIAN_FRONTEND=noninteractive apt-get update -q >/dev/null || say "apt-get update failed; trying with what is known"
  # shellcheck disable=SC2086
  $as env DEBIAN_FRONTEND=noninteractive apt-get install -qy --no-install-recommends $wanted >/dev/null
}

python_program() { # a Python of 3.11 or newer
  local name
  for name in python3.11 python3 python3.12 python3.13; do
    if command -v "$name" >/dev/null 2>&1 && "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
      command -v "$name"; return 0
    fi
  done
  say "Python 3.11 or newer is needed (Debian package python3)."; exit 1
}

need_environment() { # LOCK: make the environment from a hash-locked file, once per content
  local lock="$ROOT/$1" stamp
  stamp="$VENV/.stamp-$(basename "$1")-$(sha256sum "$lock" | cut -c1-16)"
  [ -e "$stamp" ] && return 0
  (
    flock 9
    [ -e "$stamp" ] && exit 0
    if [ ! -x "$VENV/bin/python" ] || ! "$VENV/bin/python" -c '' 2>/dev/null; then
      say "making the Python environment"
      rm -rf "$VENV"
      "$(python_program)" -m venv "$VENV" || { say "Please install the Debian package python3-venv."; exit 1; }
    fi
    say "installing Python packages from $1 (a minute or two, once)"
    "$VENV/bin/python" -m pip install --quiet --disable-pip-version-check --require-hashes -r "$lock" >&2
    touch "$stamp"
  ) 9>"$ROOT/.venv.lock"
}

need_runtime() {
  if ls "$VENV"/.stamp-requirements-test.lock-* >/dev/null 2>&1; then need_environment requirements-test.lock
  else need_environment requirements.lock; fi
}
