#!/bin/sh
# A report of the demo's work, opened in Chromium: needs chromium and npm, which Debian has.
set -eu
bin=$1
here=$(dirname "$0")
for needed in chromium npm; do
    if ! command -v "$needed" >/dev/null; then
        if [ "$(id -u)" = 0 ]; then
            apt-get install -y -q "$needed" >/dev/null
        else
            echo "missing: sudo apt install $needed" >&2
            exit 1
        fi
    fi
done
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp "$here"/package.json "$here"/package-lock.json "$here"/check.js "$work"
cp demo/oyster-landings.csv tools/browser/landings.rhabdos "$work"
(cd "$work" && npm ci --ignore-scripts --silent)
"$bin"/rhabdos report "$work"/landings.rhabdos --output "$work"/report.html
(cd "$work" && node check.js report.html "$(command -v chromium)")
