#!/bin/sh
# Everything the application and its tests need on a Debian or Ubuntu machine that has only
# python3, git and make. Safe to run again; the second time it only compares a stamp.
set -eu
cd "$(dirname "$0")/.."
venv=.venv
stamp=$venv/.installed

python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    echo "Blunt Ruler needs Python 3.11 or newer; python3 here is $(python3 -V 2>&1)." >&2
    exit 1
}

# Shared libraries that the Qt wheels expect from the system, and what carries them in Debian.
libraries='libEGL.so.1 libegl1
libGL.so.1 libgl1
libxkbcommon.so.0 libxkbcommon0
libxkbcommon-x11.so.0 libxkbcommon-x11-0
libdbus-1.so.3 libdbus-1-3
libfontconfig.so.1 libfontconfig1
libglib-2.0.so.0 libglib2.0-0
libX11-xcb.so.1 libx11-xcb1
libxcb-cursor.so.0 libxcb-cursor0
libxcb-icccm.so.4 libxcb-icccm4
libxcb-image.so.0 libxcb-image0
libxcb-keysyms.so.1 libxcb-keysyms1
libxcb-randr.so.0 libxcb-randr0
libxcb-render-util.so.0 libxcb-render-util0
libxcb-shape.so.0 libxcb-shape0
libxcb-xinerama.so.0 libxcb-xinerama0
libxcb-xkb.so.1 libxcb-xkb1'
present=$(PATH="$PATH:/sbin:/usr/sbin" ldconfig -p)
missing=$(echo "$libraries" | while read -r library package; do
    case "$present" in *"$library "*) ;; *) printf ' %s' "$package" ;; esac
done)
command -v Xvfb >/dev/null || missing="$missing xvfb"
command -v xauth >/dev/null || missing="$missing xauth"
# Debian keeps the part of venv that makes pip in a package named for the exact Python.
if [ ! -x $venv/bin/python ] && ! python3 -c 'import ensurepip, venv' 2>/dev/null; then
    missing="$missing python3-venv"
fi
if [ -n "$missing" ]; then
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        echo "Installing system packages:$missing"
        apt-get update -q >/dev/null
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends $missing >/dev/null
    else
        echo "System packages are missing. Run this once, then try again:" >&2
        echo "  sudo apt-get update && sudo apt-get install -y$missing" >&2
        exit 1
    fi
fi

# Programs that some tests hold our figures against; without them those tests skip and say so.
oracles=
command -v edid-decode >/dev/null || oracles="$oracles edid-decode"
command -v lstopo-no-graphics >/dev/null || oracles="$oracles hwloc-nox"
for shell in zsh fish; do # its completion is tested in each
    command -v $shell >/dev/null || oracles="$oracles $shell"
done
[ -e /usr/include/linux/pci_regs.h ] || oracles="$oracles linux-libc-dev"
if [ -n "$oracles" ] && [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Installing packages for the tests:$oracles"
    apt-get update -q >/dev/null || true
    # shellcheck disable=SC2086
    DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends $oracles \
        >/dev/null || echo "They could not be installed; the tests that need them will skip."
fi

want="$(cat requirements.lock pyproject.toml | sha256sum | cut -d' ' -f1) $(pwd)"
if [ "$(cat $stamp 2>/dev/null)" != "$want" ]; then
    echo "Setting up $venv from requirements.lock …"
    rm -f $stamp
    $venv/bin/python -c '' 2>/dev/null || { rm -rf $venv; python3 -m venv $venv; }
    # A later pip chooses among the files of a release in half the time (73 s and 43 s, all told).
    $venv/bin/python -m pip install -q --disable-pip-version-check pip==26.3 || true
    # The lock file is complete: nothing is left to resolve.
    $venv/bin/python -m pip install -q --disable-pip-version-check --no-compile --no-deps \
        --require-hashes -r requirements.lock
    $venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
    # Every start reads these: compiled once here, not again each time where Python may not write.
    $venv/bin/python -m compileall -q -j 0 -x '/(tests?|testing|mypy|pip|setuptools|pandas|statsmodels)/' $venv/lib >/dev/null || true
    echo "$want" > $stamp
fi
# Ours too, whenever it has changed: tests and commands start it hundreds of times.
$venv/bin/python -m compileall -q -j 0 src/blunt_ruler >/dev/null || true
