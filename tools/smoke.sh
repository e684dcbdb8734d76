#!/bin/sh
# A short run of what is installed: the command line on the demo data, and the window once.
set -eu
bin=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT

"$bin/rhabdos" --version
"$bin/rhabdos" variables demo/oyster-landings.csv --format json >"$work/variables.json"
"$bin/rhabdos" numbers demo/two-harvests.toml --data demo/oyster-landings.csv >"$work/numbers.json"
"$bin/rhabdos" draw demo/two-harvests.toml --data demo/oyster-landings.csv \
    --output "$work/figure.png" --output "$work/figure.svg" --output "$work/figure.pdf"
for file in variables.json numbers.json figure.png figure.svg figure.pdf; do
    test -s "$work/$file"
done
QT_QPA_PLATFORM=offscreen "$bin/python" tools/screenshots.py "$work" demo
test -s "$work/demo.png"
echo "smoke run: all parts answer"
