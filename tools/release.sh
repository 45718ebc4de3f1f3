#!/bin/sh
# Every check in order, then the files to publish: run it on a clean tree at the version's commit.
set -eu
cd "$(dirname "$0")/.."
python=$PWD/.venv/bin/python
version=$($python -c 'import blunt_ruler; print(blunt_ruler.__version__)')
say() { echo "release $version: $*"; }
stop() { echo "release $version: $*" >&2; exit 1; }

[ -z "$(git status --porcelain)" ] || stop "the tree has changes; commit them first."
grep -q "^## $version" CHANGELOG.md || stop "CHANGELOG.md has no section “$version”."
grep -q "version=\"$version\"" packaging/blunt-ruler.metainfo.xml ||
    stop "packaging/blunt-ruler.metainfo.xml does not name $version."

say "style, types, imports"
make -s lint
say "tests"
make -s test
say "packages, each started once"
make -s package
say "the same wheel from the same tree"
. tools/epoch.sh
mkdir -p build
first=$(sha256sum dist/*.whl | cut -d' ' -f1)
rm -rf build/again
$python -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w build/again .
rm -rf build/lib build/bdist.*
again=$(sha256sum build/again/*.whl | cut -d' ' -f1)
[ "$first" = "$again" ] || stop "two wheels of one tree differ: $first and $again."
say "what it is made of"
$python tools/sbom.py "dist/blunt-ruler-$version.cdx.json"
(cd dist && sha256sum -- * >SHA256SUMS)
[ -z "$(git status --porcelain)" ] || stop "the checks changed the tree."

echo
echo "Publish the files in dist/:"
(cd dist && ls -1)
echo
echo "Sign the sums with your own key, and publish the signature beside them:"
echo "  gpg --armor --detach-sign dist/SHA256SUMS"
echo "Whoever downloads them checks both:"
echo "  gpg --verify SHA256SUMS.asc SHA256SUMS && sha256sum --check --ignore-missing SHA256SUMS"
echo "Then tag the commit:  git tag -s v$version -m 'Blunt Ruler $version'"
