#!/bin/sh
# Puts Blunt Ruler among the programs of the present user, in a venv of its own; or removes it.
set -eu
cd "$(dirname "$0")/.."
prefix=${PREFIX:-$HOME/.local}
home=$prefix/lib/blunt-ruler
command=$prefix/bin/blunt-ruler
made=$home/made.json

if [ "${1:-}" = remove ]; then
    if [ -x "$home/bin/python" ]; then
        "$home/bin/python" tools/desktop.py remove "$prefix" --made "$made"
    fi
    folders=$(cat "$home/folders" 2>/dev/null || true)
    rm -rf "$home"
    [ -L "$command" ] && rm -f "$command"
    for folder in $folders; do # made by the installation; they stay where something else is in them
        if [ "$folder" = . ]; then rmdir "$prefix" 2>/dev/null || true; fi
        rmdir "$prefix/$folder" 2>/dev/null || true
    done
    echo "Blunt Ruler is removed from $prefix. Logbooks and settings were left where they are."
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
# What is not there yet is removed with the program; what an installation before made still is.
folders=$(cat "$home/folders" 2>/dev/null || true)
share=$(cat "$made" 2>/dev/null || true)
for folder in bin lib .; do
    [ -d "$prefix/$folder" ] || folders="$folders $folder"
done
rm -rf "$home"
mkdir -p "$prefix/bin" "$prefix/lib"
python3 -m venv "$home"
echo "$folders" >"$home/folders"
[ -z "$share" ] || printf '%s' "$share" >"$made"
# The very versions that were tested, without what only the tests need.
pins=$(mktemp)
trap 'rm -f "$pins"' EXIT
sed -e '/--hash=/d' -e 's/ *\\$//' requirements.lock >"$pins"
"$home/bin/python" -m pip install -q --disable-pip-version-check --no-compile -c "$pins" .
ln -sf "$home/bin/blunt-ruler" "$command"
"$home/bin/python" tools/desktop.py put "$prefix" --command "$command" --made "$made"
"$command" --version
case ":$PATH:" in
    *":$prefix/bin:"*) ;;
    *) echo "Put $prefix/bin on your PATH to start it by its name." ;;
esac
if [ "${SHELL##*/}" = zsh ] && [ "$prefix" != /usr ] && [ "$prefix" != /usr/local ]; then
    echo "For completion in zsh, put this before compinit in ~/.zshrc:"
    echo "  fpath=($prefix/share/zsh/site-functions \$fpath)"
fi
