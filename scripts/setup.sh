#!/bin/sh
# Everything a fresh Debian machine needs, once: system libraries, .venv, compiled kernels.
# Run again it does nothing unless the lock file or the sources changed.
set -eu
cd "$(dirname "$0")/.."

PACKAGES="ca-certificates python3-venv fontconfig libegl1 libgl1 libglib2.0-0 libgomp1 libdbus-1-3 \
libfontconfig1 libfreetype6 libxkbcommon0 libxkbcommon-x11-0 libxcb-cursor0 libxcb-icccm4 libxcb-image0 \
libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-sync1 libxcb-xfixes0 \
libxcb-xinerama0 libxcb-xkb1"

missing_packages() {
    command -v dpkg-query >/dev/null 2>&1 || return 0   # not Debian: the libraries are the user's to bring
    for name in $PACKAGES; do
        dpkg-query -W -f='${Status}' "$name" 2>/dev/null | grep -q "install ok installed" || printf '%s ' "$name"
    done
}

MISSING=$(missing_packages)
# A Python that brings its own venv module does not need Debian's.
if python3 -c 'import ensurepip' >/dev/null 2>&1; then
    MISSING=$(printf '%s' "$MISSING" | sed 's/python3-venv //')
fi
if [ -n "$MISSING" ]; then
    if [ "$(id -u)" = 0 ]; then
        echo "Installing the system libraries Wraithon needs, once: $MISSING"
        apt-get update -qq
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $MISSING >/dev/null
    else
        echo "Wraithon needs system libraries that are not here yet. Run this once, then try again:" >&2
        echo "  sudo apt-get install --no-install-recommends $MISSING" >&2
        exit 1
    fi
fi

python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    echo "Wraithon needs Python 3.11 or newer; this is $(python3 --version)." >&2
    exit 1
}

STAMP=.venv/.wraithon-setup
WANT=$(cat requirements.lock pyproject.toml | cksum)
if [ ! -x .venv/bin/python ] || [ "$(cat "$STAMP" 2>/dev/null || true)" != "$WANT" ]; then
    echo "Setting up, 1 of 2: the Python packages of requirements.lock, into .venv (about a minute)"
    [ -x .venv/bin/python ] || python3 -m venv .venv
    LOG=.venv/setup.log
    .venv/bin/python -m pip install --disable-pip-version-check --progress-bar off --require-hashes \
        -r requirements.lock > "$LOG" 2>&1 &
    INSTALLING=$!
    ALL=$(grep -c '==' requirements.lock)
    while kill -0 "$INSTALLING" 2>/dev/null; do
        sleep 4
        echo "  $(grep -c '^Collecting' "$LOG") of $ALL packages"
    done
    wait "$INSTALLING" || { cat "$LOG" >&2; exit 1; }
    .venv/bin/python -m pip install -q --no-deps --no-build-isolation -e .
    printf '%s' "$WANT" > "$STAMP"
fi

# Compiled ahead, so that the first start does not wait for it.
.venv/bin/python -m compileall -q src
# The compiler walks sets: a fixed seed takes that chance out of what it makes.
PYTHONHASHSEED=0 .venv/bin/wraithon warm
