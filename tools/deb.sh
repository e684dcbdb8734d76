#!/bin/sh
# A Debian package of the bundle: dist/rhabdos_VERSION_ARCH.deb. Made after make bundle.
set -eu
cd "$(dirname "$0")/.."
version=$(.venv/bin/python -c 'import rhabdos; print(rhabdos.__version__)')
arch=$(dpkg --print-architecture)
bundle="build/bundle/rhabdos-$version-$(uname -m)"
test -x "$bundle/rhabdos" || { echo "make bundle comes first."; exit 1; }
root=build/deb
rm -rf "$root"
mkdir -p "$root/DEBIAN" "$root/usr/lib" "$root/usr/bin" "$root/usr/share/doc/rhabdos" "$root/usr/share/lintian/overrides"
cp -r "$bundle" "$root/usr/lib/rhabdos"
rm -f "$root/usr/lib/rhabdos/LICENSE" "$root"/usr/lib/rhabdos/*.md
ln -s ../lib/rhabdos/rhabdos "$root/usr/bin/rhabdos"
cp -r src/rhabdos/share/applications src/rhabdos/share/metainfo src/rhabdos/share/mime src/rhabdos/share/icons \
    src/rhabdos/share/man src/rhabdos/share/bash-completion src/rhabdos/share/fish "$root/usr/share/"
mkdir -p "$root/usr/share/zsh/vendor-completions"
cp src/rhabdos/share/zsh/site-functions/_rhabdos "$root/usr/share/zsh/vendor-completions/"
gzip -9n "$root/usr/share/man/man1/rhabdos.1"
{
    echo "Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/"
    echo "Upstream-Name: Rhabdos"
    echo "Comment: The package holds PyQt6 and is as a whole passed on under the GPL 3."
    echo
    echo "Files: *"
    echo "Copyright: 2026 The founders of Rhabdos"
    echo "License: GPL-3"
    echo " On Debian systems the text is in /usr/share/common-licenses/GPL-3. The sources of"
    echo " Rhabdos itself are under the MIT licence:"
    sed 's/^$/./; s/^/ /' LICENSE
    echo " ."
    echo " What else the package holds, by its licences:"
    sed -n 's/^| \([^ |]*\) | \([^ |]*\) | \([^|]*\) |.*/ \1 \2: \3/p' docs/licences.md | grep -v -e "package version" -e "---"
} >"$root/usr/share/doc/rhabdos/copyright"
{
    echo "rhabdos ($version) stable; urgency=medium"
    echo
    echo "  * See CHANGELOG.md in the sources."
    echo
    echo " -- The founders of Rhabdos <founders@rhabdos.org>  $(date -u -R -d "@$(git log -1 --format=%ct)")"
} | gzip -9n >"$root/usr/share/doc/rhabdos/changelog.gz"
# The package brings its own libraries, as they are built by those who keep them.
cat >"$root/usr/share/lintian/overrides/rhabdos" <<OVERRIDES
rhabdos: embedded-library
rhabdos: shared-library-is-executable
rhabdos: shared-library-lacks-prerequisites
rhabdos: hardening-no-pie
rhabdos: hardening-no-bindnow
rhabdos: hardening-no-fortify-functions
rhabdos: hardening-no-relro
rhabdos: unstripped-binary-or-object
rhabdos: custom-library-search-path
rhabdos: exit-in-shared-library
rhabdos: package-contains-documentation-outside-usr-share-doc
rhabdos: extra-license-file
rhabdos: spelling-error-in-binary
rhabdos: executable-stack-in-shared-library
rhabdos: library-not-linked-against-libc
rhabdos: undeclared-elf-prerequisites
rhabdos: font-in-non-font-package
rhabdos: font-outside-font-dir
rhabdos: duplicate-font-file
rhabdos: unknown-file-in-python-module-directory
rhabdos: nested-examples-directory
rhabdos: national-encoding
rhabdos: executable-not-elf-or-script
rhabdos: script-not-executable
rhabdos: missing-dep-for-interpreter
rhabdos: no-manual-page
OVERRIDES
find "$root" -type d -exec chmod 755 {} +
find "$root" -type f ! -perm -100 -exec chmod 644 {} +
find "$root" -type f -perm -100 -exec chmod 755 {} +
find "$root/usr/lib/rhabdos" -name '*.so*' -type f -exec chmod 644 {} +
installed=$(du -sk "$root/usr" | cut -f1)
libc=$(dpkg-query -W -f '${Version}' libc6 | sed 's/-.*//')
cat >"$root/DEBIAN/control" <<CONTROL
Package: rhabdos
Version: $version
Architecture: $arch
Maintainer: The founders of Rhabdos <founders@rhabdos.org>
Installed-Size: $installed
Depends: libc6 (>= $libc), libegl1, libgl1, libxkbcommon0, libdbus-1-3, libfontconfig1, libxcb-cursor0, libmount1, libblkid1
Section: science
Priority: optional
Homepage: https://rhabdos.org
Description: histograms, density curves and box plots on the desktop
 Rhabdos builds histograms, density curves and box plots of numeric variables,
 chooses bin widths, breaks, density scaling and groupings by categorical
 factors, and compares distributions across groups. It opens delimited text,
 workbooks, Parquet and other files, stays quick at ten million rows, exports
 figures fit for print, and explains what it draws.
CONTROL
mkdir -p dist
SOURCE_DATE_EPOCH=$(git log -1 --format=%ct) dpkg-deb --root-owner-group -Zxz -z3 --build "$root" "dist/rhabdos_${version}_$arch.deb"
