#!/bin/sh
# Runs all tests: those of the whole window beside the others, since either keep about one core busy. Tests of the
# window's parts alone go with the others, so that both take about as long.
set -u
export QT_QPA_PLATFORM=offscreen
python=.venv/bin/python
parts=""
others=""
for name in forms courses charts score picture_view colours; do
    parts="$parts tests/desktop/test_$name.py"
    others="$others --ignore=tests/desktop/test_$name.py"
done
log=$(mktemp)
# shellcheck disable=SC2086  # each is a word of its own
"$python" -m pytest tests/desktop $others -p no:cacheprovider >"$log" 2>&1 &
window=$!
trap 'kill "$window" 2>/dev/null; rm -f "$log"' EXIT
trap 'exit 130' INT TERM
core_tests=$(find tests -maxdepth 1 -name 'test_*.py' | sort)
# shellcheck disable=SC2086
"$python" -m pytest $core_tests $parts -p no:cacheprovider
core=$?
wait "$window"
desktop=$?
echo "The window's tests:"
cat "$log"
[ "$core" -eq 0 ] && [ "$desktop" -eq 0 ]
