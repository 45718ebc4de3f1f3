#!/bin/sh
# Open the demo logbook. Without a display, on a virtual screen, with a picture of the window.
# QUIT_AFTER=seconds makes it end by itself.
set -eu
cd "$(dirname "$0")/.."
set -- build/demo.blunt
[ -z "${QUIT_AFTER:-}" ] || set -- "$@" --quit-after "$QUIT_AFTER"
if [ -n "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
    exec .venv/bin/blunt-ruler open "$@"
fi
echo "There is no display here, so Blunt Ruler starts on a virtual screen."
[ -n "${QUIT_AFTER:-}" ] || echo "It runs until you press Ctrl+C."
exec xvfb-run -a -s "-screen 0 1280x800x24" \
    .venv/bin/blunt-ruler open "$@" --picture build/demo-window.png
