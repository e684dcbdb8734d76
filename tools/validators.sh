#!/bin/sh
# What checks the files that the desktop is given, and how the window is heard: installed where we
# are root, named in one line where not.
set -eu

needed="desktop-file-utils appstream shared-mime-info man-db zsh fish xvfb dbus at-spi2-core"
missing=""
for program in desktop-file-validate appstreamcli update-mime-database man zsh fish Xvfb dbus-daemon; do
    command -v "$program" >/dev/null 2>&1 || missing=yes
done
ls /usr/libexec/at-spi-bus-launcher /usr/lib/at-spi2-core/at-spi-bus-launcher >/dev/null 2>&1 || missing=yes
[ -z "$missing" ] && exit 0
if command -v dpkg-query >/dev/null 2>&1 && [ "$(id -u)" -eq 0 ]; then
    apt-get update -qq
    # shellcheck disable=SC2086 # a list of names
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $needed >/dev/null
else
    echo "Some tests of what the desktop is given need programs, and do NOT run without them. To have them run, copy this line:"
    echo "  sudo apt-get install -y $needed"
fi
