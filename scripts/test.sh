#!/bin/sh
# Runs all tests: those of the window beside the others, since either keep about one core busy. A few of the others go
# with the window's, so that both take about as long.
set -u
export QT_QPA_PLATFORM=offscreen
python=.venv/bin/python
beside=""
others=""
for name in $(find tests -maxdepth 1 -name 'test_*.py' | sort); do
    case "$name" in
        */test_attack.py | */test_cli.py) beside="$beside $name" ;;
        *) others="$others $name" ;;
    esac
done
log=$(mktemp)
# shellcheck disable=SC2086  # each is a word of its own
"$python" -m pytest tests/desktop $beside -p no:cacheprovider >"$log" 2>&1 &
window=$!
trap 'kill "$window" 2>/dev/null; rm -f "$log"' EXIT
trap 'exit 130' INT TERM
# shellcheck disable=SC2086
"$python" -m pytest $others -p no:cacheprovider
core=$?
wait "$window"
desktop=$?
echo "The window's tests:"
cat "$log"
[ "$core" -eq 0 ] && [ "$desktop" -eq 0 ]
