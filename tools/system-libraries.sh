#!/bin/sh
# The libraries that Qt takes from the system: installed where we are root, named in one line where not.
set -eu

command -v dpkg-query >/dev/null 2>&1 || exit 0

needed="python3-venv libegl1 libgl1 libopengl0 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1 libfreetype6 \
libx11-xcb1 libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 \
libxcb-render0 libxcb-shape0 libxcb-shm0 libxcb-sync1 libxcb-xfixes0 libxcb-xinerama0 libxcb-xkb1"

# A Python that brings its own venv needs no package for it.
if "${PYTHON:-python3}" -c 'import ensurepip' 2>/dev/null; then
    needed=${needed#python3-venv }
fi

missing=""
for package in $needed; do
    case "$(dpkg-query -W -f '${Status}' "$package" 2>/dev/null || true)" in
        *"install ok installed"*) ;;
        *) missing="$missing $package" ;;
    esac
done
# glib and cups were renamed on the way to 64-bit time.
dpkg-query -W -f '${Status}\n' libglib2.0-0 libglib2.0-0t64 2>/dev/null | grep -q "ok installed" || missing="$missing libglib2.0-0"

dpkg-query -W -f '${Status}\n' libcups2 libcups2t64 2>/dev/null | grep -q "ok installed" || missing="$missing libcups2"

[ -z "$missing" ] && exit 0
if [ "$(id -u)" -eq 0 ]; then
    apt-get update -qq
    # shellcheck disable=SC2086 # a list of names
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
else
    echo "Qt needs libraries that are not installed. Copy this line, then run make again:"
    echo "  sudo apt-get install -y$missing"
    exit 1
fi
