#!/bin/sh
# The list of all dependencies with their licences, as CycloneDX: dist/rhabdos-VERSION.cdx.json.
set -eu
cd "$(dirname "$0")/.."
version=$(.venv/bin/python -c 'import rhabdos; print(rhabdos.__version__)')
plain=$(mktemp -d)
trap 'rm -rf "$plain"' EXIT
# What is shipped, without what is only built or tested with.
.venv/bin/python -m venv "$plain/venv"
"$plain/venv/bin/python" -m pip install --quiet --no-deps .
names=$(PYTHONPATH=src .venv/bin/python -c 'from tools.licences import shipped; print(*[f"{n}" for n, e in shipped().items() if "" in e])')
versions=""
for name in $names; do
    versions="$versions $name==$(.venv/bin/python -c "import importlib.metadata as m; print(m.version('$name'))")"
done
# shellcheck disable=SC2086 # a list of names
"$plain/venv/bin/python" -m pip install --quiet --no-deps $versions
"$plain/venv/bin/python" -m pip uninstall --quiet --yes pip setuptools >/dev/null 2>&1 || true
mkdir -p dist
.venv-release/bin/cyclonedx-py environment --output-reproducible --output-format JSON \
    --pyproject pyproject.toml --output-file "dist/rhabdos-$version.cdx.json" "$plain/venv/bin/python"
echo "dist/rhabdos-$version.cdx.json"
