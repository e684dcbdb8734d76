#!/bin/sh
# The tests on every Python from 3.11 on that is installed here, each in an environment of its own.
set -eu
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT

tried=
for python in "$(command -v python3)" /usr/bin/python3.* /usr/local/bin/python3.* "$HOME"/.pyenv/versions/*/bin/python3; do
    [ -x "$python" ] || continue
    version=$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2] if sys.version_info >= (3, 11) else "")' 2>/dev/null) || continue
    case " $tried " in *" $version "*) continue ;; esac
    [ -n "$version" ] || continue
    tried="$tried $version"
    "$python" -m venv "$work/$version" || continue
    "$work/$version/bin/python" -m pip install --quiet --require-hashes -r requirements.lock
    "$work/$version/bin/python" -m pip install --quiet --no-deps -e .
    echo "Python $version:"
    QT_QPA_PLATFORM=offscreen "$work/$version/bin/python" -m pytest "$@"
done
echo "Tested on:$tried"
