#!/bin/sh
# The server that tests ask: installed where we are root, named in one line where not. Its own
# service need not run: tests start one of theirs.
set -eu

ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 && exit 0
command -v initdb >/dev/null 2>&1 && exit 0
if command -v dpkg-query >/dev/null 2>&1 && [ "$(id -u)" -eq 0 ]; then
    apt-get update -qq
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends postgresql >/dev/null
else
    echo "The tests of far tables need PostgreSQL, and do NOT run without it. To have them run, copy this line:"
    echo "  sudo apt-get install -y postgresql"
fi
