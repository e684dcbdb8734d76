#!/bin/sh
# The tests with the lowest and with the newest versions that pyproject.toml allows: needs uv.
set -eu
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
for resolution in lowest-direct highest; do
    uv pip compile --quiet --resolution "$resolution" --extra dev pyproject.toml -o "$work/$resolution.txt"
    "${PYTHON:-python3}" -m venv "$work/$resolution"
    "$work/$resolution/bin/python" -m pip install --quiet -r "$work/$resolution.txt"
    "$work/$resolution/bin/python" -m pip install --quiet --no-deps -e .
    echo "$resolution:"
    QT_QPA_PLATFORM=offscreen "$work/$resolution/bin/python" -m pytest "$@"
done
