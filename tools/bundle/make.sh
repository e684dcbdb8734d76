#!/bin/sh
# One folder that brings Python and every library: dist/rhabdos-VERSION-MACHINE.tar.gz. Of the system
# it needs what every desktop has (libc, X11 or Wayland, fontconfig).
set -eu
cd "$(dirname "$0")/../.."
bin=.venv/bin
version=$($bin/python -c 'import rhabdos; print(rhabdos.__version__)')
name="rhabdos-$version-$(uname -m)"
rm -rf build/bundle "dist/$name" "dist/$name.tar.gz"
mkdir -p build/bundle dist
.venv-release/bin/python -c 'import PyInstaller' # made by make .venv-release/ready
PYTHONPATH="$(echo .venv-release/lib/python3*/site-packages)" $bin/python -m PyInstaller \
    --noconfirm --log-level WARN --name rhabdos --distpath build/bundle/dist --workpath build/bundle/work \
    --specpath build/bundle --collect-submodules rhabdos --collect-data rhabdos \
    --hidden-import font_source_sans_pro --collect-all fastexcel --collect-all duckdb --collect-data font_source_sans_pro --collect-data coloraide \
    --collect-submodules adbc_driver_postgresql --collect-data adbc_driver_postgresql \
    --exclude-module tkinter --exclude-module pytest --exclude-module hypothesis --exclude-module IPython \
    --exclude-module PyQt6.QtQml --exclude-module PyQt6.QtQuick --exclude-module PyQt6.QtMultimedia \
    tools/bundle/entry.py
mv build/bundle/dist/rhabdos "build/bundle/$name"
rm -f "build/bundle/$name"/_internal/libmount.so.1 "build/bundle/$name"/_internal/libblkid.so.1 # of every system
cp LICENSE docs/licences.md docs/security.md "build/bundle/$name/"
tar -C build/bundle --sort=name --owner=0 --group=0 --numeric-owner --mtime="@$(git log -1 --format=%ct)" \
    -czf "dist/$name.tar.gz" "$name"
du -h "dist/$name.tar.gz"
