#!/bin/sh
# Build a Debian package for the release of Debian that this runs on, or for the Python of PYTHON_VERSION (3.11, 3.13).
#
#   sh packaging/deb.sh FOLDER
#
# The package holds the program and its pinned Python packages: what Debian has of them is too old or missing. What Qt
# needs of the system is depended on.
set -eu

out=$1
here=$(CDPATH='' cd -- "$(dirname -- "$0")/.." && pwd)
python=${PYTHON:-python3}
version_of_python=${PYTHON_VERSION:-$(python3 -c 'import sys; print("%d.%d" % sys.version_info[:2])')}
next=3.$((${version_of_python#3.} + 1))
version=$(sed -n 's/^__version__ = "\(.*\)"$/\1/p' "$here/src/jaunty_copper/__init__.py")
case $version_of_python in
    3.11) release=deb12 ;;
    3.13) release=deb13 ;;
    *) release=py$version_of_python ;;
esac
name=jaunty-copper_$version~${release}_$(dpkg --print-architecture).deb
room=$(mktemp -d)
trap 'rm -rf "$room"' EXIT
root=$room/root
lib=$root/usr/lib/jaunty-copper
mkdir -p "$out" "$lib" "$root/usr/bin" "$root/DEBIAN" "$root/usr/share/doc/jaunty-copper"

"$python" -m pip install --quiet --disable-pip-version-check --no-input --require-hashes --no-compile \
    --only-binary=:all: --python-version "$version_of_python" --target "$lib" -r "$here/requirements.lock"
"$python" "$here/packaging/distributions.py" "$room/dist" >"$room/log" 2>&1 || { cat "$room/log" >&2; exit 1; }
"$python" -m pip install --quiet --disable-pip-version-check --no-input --no-deps --no-compile --no-index \
    --python-version "$version_of_python" --only-binary=:all: --target "$lib" "$room"/dist/*.whl
rm -rf "$lib/bin" "$lib/share" "$lib/PySide6/Qt/qml" "$lib/PySide6/Qt/translations" "$lib/PySide6/include" \
    "$lib/PySide6/typesystems" "$lib/PySide6/doc" "$lib/PySide6/scripts"
# Tests of the libraries are no part of a program; some of them are a third of their library.
find "$lib" -type d \( -name tests -o -name test \) ! -path '*/jaunty_copper/*' -prune -exec rm -rf {} +

cp -R "$lib/jaunty_copper/desktop/share/." "$root/usr/share/"
gzip -9n "$root/usr/share/man/man1/jaunty-copper.1"
cat >"$root/usr/bin/jaunty-copper" <<'PY'
#!/usr/bin/python3 -I
import sys

sys.path.insert(0, "/usr/lib/jaunty-copper")
from jaunty_copper.cli.main import main

sys.exit(main())
PY
chmod 755 "$root/usr/bin/jaunty-copper"
gzip -9nc "$here/CHANGELOG.md" >"$root/usr/share/doc/jaunty-copper/changelog.gz"
{
    echo 'Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/'
    echo
    echo 'Files: *'
    echo 'Copyright: the developers of Jaunty Copper'
    echo 'License: Expat'
    sed 's/^$/./; s/^/ /' "$here/LICENSE"
    echo
    echo 'Files: /usr/lib/jaunty-copper/*'
    echo 'Copyright: as each package there says in its dist-info folder'
    echo 'License: as each package there says in its dist-info folder'
} >"$root/usr/share/doc/jaunty-copper/copyright"

# Written once by root, and gone with the package: without them every start would compile everything.
cat >"$root/DEBIAN/postinst" <<'SH'
#!/bin/sh
set -e
[ "$1" != configure ] || python3 -m compileall -q -j 0 /usr/lib/jaunty-copper || true
SH
cat >"$root/DEBIAN/prerm" <<'SH'
#!/bin/sh
set -e
find /usr/lib/jaunty-copper -type d -name __pycache__ -prune -exec rm -rf {} +
SH
chmod 755 "$root/DEBIAN/postinst" "$root/DEBIAN/prerm"
cat >"$root/DEBIAN/control" <<CONTROL
Package: jaunty-copper
Version: $version~$release
Section: science
Priority: optional
Architecture: $(dpkg --print-architecture)
Maintainer: the developers of Jaunty Copper <nobody@example.invalid>
Installed-Size: $(du -sk "$root" | cut -f1)
Depends: python3 (>= $version_of_python), python3 (<< $next), libgl1, libegl1, libglib2.0-0 | libglib2.0-0t64, libdbus-1-3,
 libfontconfig1, libfreetype6, libxkbcommon0, libxkbcommon-x11-0, libx11-6, libx11-xcb1, libxcb-cursor0, libxcb-icccm4,
 libxcb-image0, libxcb-keysyms1, libxcb-randr0, libxcb-render-util0, libxcb-render0, libxcb-shape0, libxcb-shm0,
 libxcb-sync1, libxcb-util1, libxcb-xfixes0, libxcb-xinerama0, libxcb-xkb1, libxcb1
Recommends: shared-mime-info, hicolor-icon-theme
Description: plan and check low-voltage DC distribution, 12 to 48 V
 Battery bank interconnects, busbars, disconnects and overcurrent protection: draw
 a system, and every conductor and device is computed and held against the code in
 force. A planning aid: local codes and licensed practice decide.
CONTROL
find "$root" -type d -exec chmod 755 {} +
dpkg-deb --root-owner-group -Zzstd -z12 --build "$root" "$out/$name" >/dev/null
echo "$out/$name"
