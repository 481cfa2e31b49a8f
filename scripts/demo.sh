#!/bin/sh
# Starts Volumen; without a screen it says what to do, or uses a virtual one with DEMO_XVFB=1.
set -eu
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ] || [ "${QT_QPA_PLATFORM:-}" = offscreen ]; then
    exec "$@"
fi
if [ "${DEMO_XVFB:-}" = 1 ]; then
    command -v xvfb-run >/dev/null 2>&1 || { echo "make demo: xvfb-run is missing; install the packages xvfb and xauth" >&2; exit 1; }
    exec xvfb-run -a -s "-screen 0 1280x800x24" "$@"
fi
echo "make demo: there is no screen (neither DISPLAY nor WAYLAND_DISPLAY is set)." >&2
echo "Start it inside a desktop session, or on a virtual screen:  DEMO_XVFB=1 make demo" >&2
exit 1
