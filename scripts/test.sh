#!/bin/sh
# Runs all tests: those of the window beside the others, since either keep about one core busy.
set -u
export QT_QPA_PLATFORM=offscreen
python=.venv/bin/python
log=$(mktemp)
"$python" -m pytest tests/desktop -p no:cacheprovider >"$log" 2>&1 &
window=$!
trap 'kill "$window" 2>/dev/null; rm -f "$log"' EXIT
trap 'exit 130' INT TERM
"$python" -m pytest tests --ignore=tests/desktop -p no:cacheprovider
core=$?
wait "$window"
desktop=$?
echo "The window's tests:"
cat "$log"
[ "$core" -eq 0 ] && [ "$desktop" -eq 0 ]
