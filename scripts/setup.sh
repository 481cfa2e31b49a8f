#!/bin/sh
# Makes the virtual environment and installs what Volumen needs. Missing system libraries are installed when
# possible (Debian, as root or with passwordless sudo), otherwise named exactly.
set -eu
# The system's own Python goes first: it is built with all optimisations, others may take 1.6 times as long.
new_enough='import sys; sys.exit(sys.version_info < (3, 11))'
if [ -z "${PYTHON:-}" ]; then
    PYTHON=/usr/bin/python3
    "$PYTHON" -c "$new_enough" >/dev/null 2>&1 || PYTHON=python3
fi
VENV="${VENV:-.venv}"
PACKAGES="python3-venv libegl1 libgl1 libglib2.0-0 libfontconfig1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 \
libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-image0 libxcb-render-util0 libxcb-xinerama0 \
libxcb-randr0 libx11-xcb1 xvfb xauth poppler-utils"

"$PYTHON" -c "$new_enough" || {
    echo "setup: Volumen needs Python 3.11 or newer; '$PYTHON' is older" >&2; exit 1; }

missing=""
if command -v dpkg-query >/dev/null 2>&1; then
    for p in $PACKAGES; do
        case "$p" in python3-venv) "$PYTHON" -c 'import ensurepip, venv' >/dev/null 2>&1 && continue ;; esac
        dpkg-query -W -f='${Status}' "$p" 2>/dev/null | grep -q 'install ok installed' || missing="$missing $p"
    done
fi
if [ -n "$missing" ]; then
    as_root=""
    if [ "$(id -u)" != 0 ]; then
        if command -v sudo >/dev/null 2>&1 && sudo -n true 2>/dev/null; then as_root="sudo -n"; else as_root="no"; fi
    fi
    if [ "$as_root" = "no" ]; then
        echo "setup: these system packages are missing and need an administrator:" >&2
        echo "    apt-get install$missing" >&2
        echo "setup: going on without them; what depends on them will say so" >&2
    else
        echo "setup: installing$missing"
        $as_root apt-get update -qq || true
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive $as_root apt-get install -y -qq --no-install-recommends $missing >/dev/null || {
            echo "setup: could not install:$missing" >&2; echo "setup: going on without them" >&2; }
    fi
fi

if ! [ -x "$VENV/bin/python" ]; then
    "$PYTHON" -m venv "$VENV" || { PYTHON=python3; rm -rf "$VENV"; "$PYTHON" -m venv "$VENV"; }
fi
"$VENV/bin/python" -m pip install -q --disable-pip-version-check -c constraints.txt -e ".[dev]"
# Compile the loops for meshes, reliefs and drafts now, so that nothing on the canvas waits for them.
"$VENV/bin/python" scripts/compile_loops.py || echo "setup: the loops could not be compiled now; the first drawing will wait for them" >&2
