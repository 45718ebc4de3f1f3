#!/bin/sh
# Builds a wheel, a source archive and a .deb into dist/, and starts each from a clean folder.
set -eu
cd "$(dirname "$0")/.."
python=$PWD/.venv/bin/python
version=$($python -c 'import blunt_ruler; print(blunt_ruler.__version__)')
minor=$($python -c 'import sys; print(sys.version_info.minor)')
. tools/epoch.sh
rm -rf dist build/package
mkdir -p dist build/package

$python -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w dist .
$python -c 'from setuptools import build_meta; build_meta.build_sdist("dist")' >/dev/null
rm -rf build/lib build/bdist.*

# The .deb holds the program with all it imports; only python3 and Qt's libraries come from outside.
tree=build/package/deb
pins=build/package/pins.txt
sed -e '/--hash=/d' -e 's/ *\\$//' requirements.lock >"$pins"
mkdir -p "$tree/DEBIAN" "$tree/usr/bin" "$tree/usr/lib/blunt-ruler"
$python -m pip install -q --disable-pip-version-check --no-compile -c "$pins" \
    --target "$tree/usr/lib/blunt-ruler" dist/*.whl
rm -rf "$tree/usr/lib/blunt-ruler/bin" "$tree/usr/lib/blunt-ruler/share"
cat >"$tree/usr/bin/blunt-ruler" <<'END'
#!/bin/sh
here=$(dirname "$(readlink -f "$0")")
PYTHONPATH=$here/../lib/blunt-ruler PYTHONNOUSERSITE=1 exec python3 -P -m blunt_ruler "$@"
END
chmod 755 "$tree/usr/bin/blunt-ruler"
$python tools/desktop.py put "$tree/usr" --command "$PWD/.venv/bin/blunt-ruler" \
    --starts /usr/bin/blunt-ruler --made build/package/made.json
rm -f "$tree"/usr/share/mime/mime.cache "$tree"/usr/share/applications/mimeinfo.cache
cat >"$tree/DEBIAN/control" <<END
Package: blunt-ruler
Version: $version
Architecture: $(dpkg --print-architecture)
Maintainer: The Blunt Ruler founders <founders@blunt-ruler.invalid>
Depends: python3 (>= 3.$minor), python3 (<< 3.$((minor + 1))), libegl1, libgl1, libxkbcommon0, libdbus-1-3, libfontconfig1, libxcb-cursor0, libxkbcommon-x11-0
Section: science
Priority: optional
Installed-Size: $(du -sk "$tree/usr" | cut -f1)
Description: logbook and analyst for graphics-card reviews
 What a graphics card gained over a base, what it lost against the card in a
 full slot, and what took it: link, CPU, card, screen path.
END
dpkg-deb --root-owner-group -Zxz -z1 --build "$tree" "dist/blunt-ruler_${version}_$(dpkg --print-architecture).deb" >/dev/null

# Each is started from a clean folder, and reads a logbook that it made there.
clean=build/package/clean
try() {
    mkdir -p "$clean/$1.work"
    (cd "$clean/$1.work" && HOME=$PWD && export HOME && "$2" --version | grep -q "$version" &&
        "$2" demo --out demo.blunt >/dev/null && "$2" compare demo.blunt --json >/dev/null) ||
        { echo "dist: the $1 does not start." >&2; exit 1; }
    echo "$1: starts, and reads the demo"
}
for kind in wheel source; do
    python3 -m venv "$clean/$kind"
    case $kind in wheel) from=dist/*.whl ;; source) from=dist/*.tar.gz ;; esac
    "$clean/$kind/bin/python" -m pip install -q --disable-pip-version-check --no-compile -c "$pins" $from
    try "$kind" "$PWD/$clean/$kind/bin/blunt-ruler"
    rm -rf "$clean/$kind"
done
dpkg-deb -x dist/*.deb "$clean/deb"
try deb "$PWD/$clean/deb/usr/bin/blunt-ruler"
rm -rf build/package
ls -lh dist | awk 'NR > 1 {print $9, $5}'
