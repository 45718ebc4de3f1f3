#!/bin/sh
# Puts Blunt Ruler among the programs of the present user, in a venv of its own; or takes it away.
set -eu
cd "$(dirname "$0")/.."
prefix=${PREFIX:-$HOME/.local}
home=$prefix/lib/blunt-ruler
command=$prefix/bin/blunt-ruler

if [ "${1:-}" = remove ]; then
    [ -x "$home/bin/python" ] && "$home/bin/python" tools/desktop.py remove "$prefix"
    rm -rf "$home"
    [ -L "$command" ] && rm -f "$command"
    echo "Blunt Ruler is gone from $prefix. Logbooks and settings were left where they are."
    exit 0
fi

python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    echo "Blunt Ruler needs Python 3.11 or newer; python3 here is $(python3 -V 2>&1)." >&2
    exit 1
}
if [ -e "$command" ] && [ ! -L "$command" ]; then
    echo "$command is there already and is not ours; move it away first." >&2
    exit 1
fi
echo "Installing into $home …"
rm -rf "$home"
python3 -m venv "$home"
# The very versions that were tested, without what only the tests need.
pins=$(mktemp)
trap 'rm -f "$pins"' EXIT
sed -e '/--hash=/d' -e 's/ *\\$//' requirements.lock >"$pins"
"$home/bin/python" -m pip install -q --disable-pip-version-check --no-compile -c "$pins" .
mkdir -p "$prefix/bin"
ln -sf "$home/bin/blunt-ruler" "$command"
"$home/bin/python" tools/desktop.py put "$prefix"
"$command" --version
case ":$PATH:" in
    *":$prefix/bin:"*) ;;
    *) echo "Put $prefix/bin on your PATH to start it by its name." ;;
esac
